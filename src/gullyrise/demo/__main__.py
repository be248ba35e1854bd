"""Makes the demo files anew: `python -m gullyrise.demo`."""

from gullyrise.demo import FILES
from gullyrise.demo.parts import make_all

if __name__ == "__main__":
    make_all(FILES)
