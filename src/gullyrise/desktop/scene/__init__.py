"""From the job and what is seen of it to what is drawn."""
