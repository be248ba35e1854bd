"""What is said here, and what steps are called."""

FIRST_ARE_DRAWN = "{:,} are selected; the first {} of them are drawn."
HAVE_THIS_SHAPE = "{} {} this shape."
