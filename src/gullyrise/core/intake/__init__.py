"""What a technician should know on receiving a part: its unit, its mesh health."""
