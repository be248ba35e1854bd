"""The view of the bench: its panes, what is under the pointer, where they look from, tools and overlays."""
