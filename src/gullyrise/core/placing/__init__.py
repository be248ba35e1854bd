"""Where a part stands on a machine, and whether it could stand there turned."""
