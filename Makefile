# make demo   installs what is missing, builds the interface and starts with the demo data
# make test   linters, type checks, import directions, and all tests
# make verification  writes the table of known answers as the tests measure them
# make soak   beats the server for about half an hour, alone on the machine, and writes docs/reliability.md's table
# make bench  the table of speed ratios        make shots  the pictures in docs/screenshots/

PYTHON ?= python3
PORT ?= 8400
DATA ?= data
BIN := .venv/bin
SOURCES := $(shell find frontend/src frontend/public frontend/index.html frontend/vite.config.ts -type f 2>/dev/null)

.PHONY: demo serve test verification jobs soak bench shots build lint check-tools clean lock

demo: .venv/run.stamp build
	$(BIN)/lean-lattice serve --demo --port $(PORT) --data $(DATA)

serve: .venv/run.stamp build
	$(BIN)/lean-lattice serve --port $(PORT) --data $(DATA)

build: frontend/dist/index.html

test: .venv/dev.stamp build check-tools lint
	cd frontend && npm run --silent test
	$(BIN)/python -m compileall -q leanlattice tests
	$(BIN)/python -m tests.warm
	$(BIN)/pytest -n 2 --dist loadgroup

verification: .venv/dev.stamp build check-tools
	$(BIN)/pytest -n 2 --dist loadgroup -m known --write-verification

jobs: .venv/dev.stamp build check-tools
	$(BIN)/pytest tests/ui/test_jobs.py --every-job

soak: .venv/dev.stamp build
	$(BIN)/python -m tests.soak

bench: .venv/dev.stamp build check-tools
	$(BIN)/lean-lattice bench

shots: .venv/dev.stamp build check-tools
	$(BIN)/python -m tests.ui.cards demo
	$(BIN)/python -m tests.ui.shots docs/screenshots

lint: .venv/dev.stamp frontend/node_modules/.stamp
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/lean-lattice openapi build/openapi.json
	cd frontend && npm run --silent lint && npm run --silent types
	cd frontend && npx --no-install openapi-typescript ../build/openapi.json -o ../build/schema.d.ts > /dev/null
	@cmp -s build/schema.d.ts frontend/src/api/schema.d.ts || (echo "frontend/src/api/schema.d.ts is not what the server says: run “make types”"; exit 1)

types: .venv/dev.stamp frontend/node_modules/.stamp
	$(BIN)/lean-lattice openapi build/openapi.json
	cd frontend && npm run --silent api

check-tools:
	@command -v chromium > /dev/null && command -v chromedriver > /dev/null || sh tests/ui/install-browser.sh

# The locked packages carry hashes; the project itself is installed in place and needs nothing more.
.venv/bin/python:
	$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11) and "Python 3.11 or newer is needed")'
	$(PYTHON) -m venv .venv

.venv/run.stamp: requirements.lock pyproject.toml | .venv/bin/python
	test -f .venv/dev.stamp || $(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	$(BIN)/python -m compileall -q leanlattice
	touch $@

.venv/dev.stamp: requirements-dev.lock pyproject.toml | .venv/bin/python
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements-dev.lock
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	touch $@

frontend/node_modules/.stamp: frontend/package-lock.json
	cd frontend && npm ci --silent
	touch $@

frontend/dist/index.html: frontend/node_modules/.stamp $(SOURCES)
	cd frontend && npm run --silent build

lock: .venv/bin/python
	$(BIN)/pip install --quiet pip-tools
	$(BIN)/pip-compile -q --strip-extras --generate-hashes --no-emit-index-url --no-emit-find-links --allow-unsafe --extra install -o requirements.lock pyproject.toml
	$(BIN)/pip-compile -q --strip-extras --generate-hashes --no-emit-index-url --no-emit-find-links --allow-unsafe --extra install --extra dev -o requirements-dev.lock pyproject.toml

clean:
	rm -rf .venv frontend/node_modules frontend/dist build
