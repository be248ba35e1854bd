"""What a worker process does to itself before it touches bytes that somebody sent: bounds on what it eats, and no authority over
anything but the files that its work is about."""

from gullyrise.workers.fencing.authority import disarm, lacking, make_ready
from gullyrise.workers.fencing.grants import NOTHING, Grants
from gullyrise.workers.fencing.resources import bound, end_with_parent

__all__ = ["NOTHING", "Grants", "bound", "disarm", "end_with_parent", "lacking", "make_ready"]
