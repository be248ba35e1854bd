"""From what a hand does with mouse, touchpad or pen to what the view does."""
