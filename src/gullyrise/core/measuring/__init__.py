"""Dimensions between picked things: recognising what they are, what they measure themselves, and what lies between."""
