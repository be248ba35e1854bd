"""Processes that read and compute, fenced in memory and time; one a job."""
