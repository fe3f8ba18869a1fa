# Everything sets itself up in .venv: Python 3.11 or newer and make are all that is needed.
PYTHON ?= python3
BIN := .venv/bin
READY := .venv/ready

# How long `make fuzz` goes on.
MINUTES ?= 30

.PHONY: demo test fuzz lint bench screenshots clean

demo: $(READY)
	@$(BIN)/python -m compileall -q src
	@$(BIN)/samovar demo

# Compiled beforehand: the tests start the program some hundred times.
test: $(READY)
	@$(BIN)/python -m compileall -q src tests
	@$(BIN)/python -m tests

fuzz: $(READY)
	@$(BIN)/python -m tests.fuzz $(MINUTES)

lint: $(READY)
	@$(BIN)/ruff check src tests bench
	@$(BIN)/ruff format --check src tests bench
	@$(BIN)/mypy

bench: $(READY)
	@$(BIN)/python -m bench

screenshots: $(READY)
	@$(BIN)/python -m bench.screenshots

$(READY): pyproject.toml
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11) and "Samovar needs Python 3.11 or newer")'
	@test -x $(BIN)/python || $(PYTHON) -m venv .venv
	@echo "Setting up in .venv (once) ..."
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --editable '.[dev,all]'
	@touch $(READY)

clean:
	rm -rf .venv .mypy_cache .ruff_cache .hypothesis
