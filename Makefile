# Every target installs what is missing first; a second run installs nothing.
.PHONY: demo test quick soak truth witness bench shots lint fuzz crashes attack workday schema install

PY := .venv/bin/python

install:
	@./bootstrap

demo: install
	@.venv/bin/gullyrise demo

test: install
	@QT_QPA_PLATFORM=offscreen $(PY) -m pytest -q -n 3 --dist worksteal

# What needs no window and no long breath, for the loop while working.
quick: install
	@QT_QPA_PLATFORM=offscreen $(PY) -m pytest -q -n 2 --dist worksteal -m "not slow and not gui" tests/core tests/house tests/files tests/truth

# Thousands of random parts with a known truth: make truth N=10000 SEED=3 FAMILIES="drill_points tube"
truth: install
	@N=$(or $(N),1000) SEED=$(or $(SEED),1) FAMILIES="$(FAMILIES)" OPENBLAS_NUM_THREADS=1 PYTHONPATH=tests $(PY) -m truth.campaign

# Random actions and strokes over real parts, against plain geometry: make soak N=20000 SEED=1; CHECKS=all judges walls and all.
soak: install
	@N=$(or $(N),20000) SEED=$(or $(SEED),1) CHECKS=$(or $(CHECKS),few) PYTHONPATH=tests:tests/desktop $(PY) -m soak.campaign

# Files that third parties wrote, against independent libraries; fetches them as Debian packages into a cache.
witness: install
	@PYTHONPATH=tests $(PY) tests/witness/run.py

bench: install
	@QT_QPA_PLATFORM=offscreen $(PY) -m benchmarks

# Files spoiled by chance, and thought out by the lines that they reach: make fuzz CASES=100000 KINDS="stl ply"
fuzz: install
	@PYTHONPATH=tests/files:tests $(PY) tests/files/fuzz.py $(or $(CASES),26000) $(KINDS)

# Jobs, machines, settings mutated field by field, answers garbled, the window's own methods broken: make attack CASES=5000 SEED=1
attack: install
	@CASES=$(or $(CASES),5000) SEED=$(or $(SEED),1) QT_QPA_PLATFORM=offscreen PYTHONPATH=tests:tests/desktop $(PY) -m attack.campaign

# A day's work in half an hour: what the window holds at its end against what it held at its beginning.
workday: install
	@ROUNDS=$(or $(ROUNDS),2000) SEED=$(or $(SEED),1) QT_QPA_PLATFORM=offscreen PYTHONPATH=tests:tests/desktop $(PY) -m attack.workday

schema: install
	@$(PY) docs/pages.py

# The window, its workers and its fork server killed at random moments: make crashes TIMES=1000
crashes: install
	@PYTHONPATH=tests/files:tests $(PY) tests/files/crashes.py $(or $(TIMES),50)

shots: install
	@QT_QPA_PLATFORM=offscreen $(PY) docs/shots.py

lint: install
	@$(PY) -m ruff check src tests benchmarks docs
	@$(PY) -m ruff format --check src tests benchmarks docs
	@$(PY) -m mypy
	@.venv/bin/lint-imports
