"""What is drawn in a worker process: pictures of evidence, of parts and for reports. No window, no display."""
