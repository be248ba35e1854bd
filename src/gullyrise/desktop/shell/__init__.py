"""The window round the features: its panels, what floats over the bench, cards, the status line, notifications."""
