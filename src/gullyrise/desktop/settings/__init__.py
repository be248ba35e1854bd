"""Choices that outlive a session: typed rows, their keeping, and the sheet that shows them."""
