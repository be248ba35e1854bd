# Every target installs what is missing first; a second run installs nothing.
.PHONY: demo test bench shots lint fuzz crashes schema install

PY := .venv/bin/python

install:
	@./bootstrap

demo: install
	@.venv/bin/gullyrise demo

test: install
	@QT_QPA_PLATFORM=offscreen $(PY) -m pytest -q -n 2 --dist worksteal

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
