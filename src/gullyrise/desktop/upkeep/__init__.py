"""What keeps a long session whole: its log, errors that nobody caught, memory, garbage."""
