"""What is said here, and what steps are called."""

CHANGE = "Change {}"
