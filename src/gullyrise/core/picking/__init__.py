"""What the pointer asks of a part: what has been made ready so that it is answered at once."""
