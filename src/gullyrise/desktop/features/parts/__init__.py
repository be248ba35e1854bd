"""The parts of the job: tree, list, and what was found out about each as it came in."""
