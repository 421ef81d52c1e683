# make test: the tests; make tour: the whole job on the demo data; each sets up its own environment in .venv
PYTHON ?= python3
READY = .venv/.ready

.PHONY: test tour bench pictures clean

test: $(READY)
	.venv/bin/python -m pytest

tour: $(READY)
	rm -rf build/tour
	.venv/bin/syntagma tour build/tour

bench: $(READY)
	.venv/bin/python benchmarks/run.py

pictures: $(READY)
	.venv/bin/python docs/screenshots/make.py

$(READY): pyproject.toml
	$(PYTHON) -m venv .venv
	.venv/bin/python -m pip install --quiet --disable-pip-version-check --editable '.[test]'
	touch $(READY)

clean:
	rm -rf .venv build
