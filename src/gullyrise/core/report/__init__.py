"""What is said of parts and verdicts: JSON, pages, outlines."""
