# make test: the tests without the longest; make test-all: all of them; make lint: style and types; make tour: the whole job on the demo data; each sets up its own environment in .venv
PYTHON ?= python3
READY = .venv/.ready

# What is compiled is kept: the tests start the program often.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: test test-all lint tour bench pictures clean

test: $(READY)
	.venv/bin/python -m pytest -m "not long"

test-all: $(READY)
	.venv/bin/python -m pytest

lint: $(READY)
	.venv/bin/ruff check src tests benchmarks training docs
	.venv/bin/ruff format --check src tests benchmarks training docs
	.venv/bin/mypy

tour: $(READY)
	rm -rf build/tour
	.venv/bin/syntagma tour build/tour

bench: $(READY)
	.venv/bin/python benchmarks/run.py

pictures: $(READY)
	.venv/bin/python docs/screenshots/make.py

$(READY): pyproject.toml tests/lock.txt
	$(PYTHON) -m venv .venv
	.venv/bin/python -m pip install --quiet --disable-pip-version-check --constraint tests/lock.txt --editable '.[test,lint]'
	touch $(READY)

clean:
	rm -rf .venv build
