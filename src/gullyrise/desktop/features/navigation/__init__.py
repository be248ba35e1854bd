"""Where the view looks from, and how things are drawn."""
