# make demo     set everything up and serve the demo shelf on http://127.0.0.1:8765
# make test     set everything up and pass every linter, contract and test
# make bench    set everything up, measure, and write docs/performance.md
# make install  the first half of both: afterwards .venv/bin/glyptic works

PYTHON ?= python3
BIN := .venv/bin
SOURCES := src/glyptic/web/templates
SCRIPTS := src/glyptic/web/static/js

.PHONY: install install-dev demo test lint types chromium bench
.DEFAULT_GOAL := install

install:
	@$(PYTHON) scripts/setup.py runtime

install-dev:
	@$(PYTHON) scripts/setup.py runtime dev

demo: install
	@$(BIN)/glyptic serve --demo

lint: install-dev
	$(BIN)/ruff format --check src tests scripts bench
	$(BIN)/ruff check src tests scripts bench
	$(BIN)/mypy
	$(BIN)/lint-imports --no-logo 2>/dev/null || $(BIN)/lint-imports
	$(BIN)/djlint --lint --quiet $(SOURCES)
	$(BIN)/oxlint --quiet $(SCRIPTS)

# What checks the page: TypeScript's compiler over its comments, and axe for the browser tests.
vendor/node_modules/.package-lock.json: vendor/package-lock.json | install-dev
	@PATH="$(CURDIR)/$(BIN):$$PATH" $(BIN)/npm ci --prefix vendor --silent --no-audit --no-fund && touch $@

types: vendor/node_modules/.package-lock.json
	$(BIN)/node vendor/node_modules/typescript/bin/tsc -p $(SCRIPTS)/jsconfig.json

chromium:
	@sh scripts/chromium.sh

test: lint types chromium
	$(BIN)/pytest --numprocesses auto --dist worksteal

bench: install-dev chromium
	$(BIN)/python -m bench
