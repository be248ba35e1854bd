"""What exact surfaces say, in plain arrays; with `reading`, the only rooms that import OCP."""
