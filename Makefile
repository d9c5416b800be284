PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
RUN_STAMP := $(VENV)/.installed-run
DEV_STAMP := $(VENV)/.installed-dev
DEMO_DATA ?= .demo-data
# Small matrices: threads of linear algebra would only wait for one another.
export OPENBLAS_NUM_THREADS = 1
# Compiled once: the tests start Python a hundred times, and each worker reads every test.
export PYTHONDONTWRITEBYTECODE =

.PHONY: demo run test test-long approve coverage mutants lint docs schema css screenshots bench suite-cost fuzz released test-tools clean

demo: $(RUN_STAMP)  ## start with the made-up Skarnmere Slip data on http://127.0.0.1:8420
	@$(BIN)/welotrope demo --data $(DEMO_DATA)

run: $(RUN_STAMP)  ## start with your own data
	@$(BIN)/welotrope serve

test: $(DEV_STAMP) test-tools  ## lint, types, import rules and all tests but the long ones
	$(MAKE) lint
	-$(BIN)/python -m pytest --collect-only -q >/dev/null
	$(BIN)/python -m pytest -n $$(nproc) --dist worksteal -m "not long"

# A worker with a browser waits for it a third of the time.
test-long: $(DEV_STAMP) test-tools  ## the tests of tests/long.txt: whole paths through a browser, simulations, kills
	$(BIN)/python -m pytest -n $$(( $$(nproc) * 3 / 2 )) --dist worksteal -m long

approve: $(DEV_STAMP)  ## take what the pages say now as meant; look at the difference it makes
	APPROVE=1 $(BIN)/python -m pytest tests/web/test_approved_pages.py

coverage: $(DEV_STAMP) test-tools  ## which lines and branches the tests without a browser run; fails below 92 %
	$(BIN)/python -m coverage erase
	$(BIN)/python -m coverage run -m pytest -q -p no:xdist -m "not browser"
	$(BIN)/python -m coverage combine -q
	$(BIN)/python -m coverage report

mutants: $(DEV_STAMP) test-tools  ## plant small bugs and see that tests notice them (20 minutes)
	$(BIN)/python scripts/mutants.py

lint: $(DEV_STAMP)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports --no-cache

css: $(DEV_STAMP)  ## compile the style sheet
	$(BIN)/tailwindcss -i src/welotrope/web/css/app.css -o src/welotrope/web/static/css/app.css --minify

screenshots: $(DEV_STAMP) test-tools  ## regenerate docs/screenshots from the demo data
	$(BIN)/python scripts/screenshots.py

bench: $(DEV_STAMP) test-tools  ## speed and size, as a table
	$(BIN)/python -m compileall -q src
	$(BIN)/python scripts/bench.py

suite-cost: $(DEV_STAMP) test-tools  ## all tests, what they cost in minutes of a processor, and which are long
	-$(BIN)/python -m pytest --collect-only -q >/dev/null
	$(BIN)/python scripts/suite_cost.py

fuzz: $(DEV_STAMP)  ## odd requests, hostile archives, everything heavy at once, kills, on ports of its own (25 minutes)
	$(BIN)/python scripts/fuzz.py

$(VENV)/bin/uv:
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check 'uv>=0.11,<0.12'

$(RUN_STAMP): requirements.lock pyproject.toml | $(VENV)/bin/uv
	VIRTUAL_ENV=$(VENV) $(BIN)/uv pip install --quiet --compile-bytecode -r requirements.lock
	VIRTUAL_ENV=$(VENV) $(BIN)/uv pip install --quiet --no-deps --editable .
	$(BIN)/python -m compileall -q src
	@touch $@

$(DEV_STAMP): requirements-dev.lock pyproject.toml | $(VENV)/bin/uv
	VIRTUAL_ENV=$(VENV) $(BIN)/uv pip install --quiet --compile-bytecode -r requirements-dev.lock
	VIRTUAL_ENV=$(VENV) $(BIN)/uv pip install --quiet --no-deps --editable .
	$(BIN)/python -m compileall -q src
	@touch $@ $(RUN_STAMP)

test-tools:
	@scripts/install_test_tools.sh

clean:
	rm -rf $(VENV) .demo-data .pytest_cache .mypy_cache .ruff_cache .hypothesis build src/*.egg-info

released: $(DEV_STAMP)  ## keep a filled database of this revision, before a migration is added
	$(BIN)/python scripts/released.py

schema: $(DEV_STAMP)  ## the tables of a new database from the migrations, after one was added
	$(BIN)/python scripts/schema.py

docs: $(DEV_STAMP)  ## formulas.md and cli.md from the code
	$(BIN)/python scripts/docs.py
