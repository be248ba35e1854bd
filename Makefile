# Every target installs what is missing first; a second run installs nothing.
.PHONY: demo test quick soak truth witness bench shots lint fuzz crashes schema install

PY := .venv/bin/python

install:
	@./bootstrap

demo: install
	@.venv/bin/gullyrise demo

test: install
	@QT_QPA_PLATFORM=offscreen $(PY) -m pytest -q -n 2 --dist worksteal

# What needs no window and no long breath, for the loop while working.
quick: install
	@QT_QPA_PLATFORM=offscreen $(PY) -m pytest -q -n 2 --dist worksteal -m "not slow and not gui" tests/core tests/files tests/truth

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

fuzz: install
	@PYTHONPATH=tests/files:tests $(PY) tests/files/fuzz.py $(or $(CASES),2000) $(KINDS)

schema: install
	@$(PY) docs/pages.py

crashes: install
	@PYTHONPATH=tests/files:tests $(PY) tests/files/crashes.py $(or $(TIMES),50)

shots: install
	@QT_QPA_PLATFORM=offscreen $(PY) docs/shots.py

lint: install
	@$(PY) -m ruff check src tests benchmarks docs
	@$(PY) -m ruff format --check src tests benchmarks docs
	@$(PY) -m mypy
	@.venv/bin/lint-imports
