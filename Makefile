# Everything starts here: `make demo` to see Izmet, `make test` to check it.
# Needs python3 (3.11 or newer) and make; the rest is set up here. Node.js is the machine's own where that is
# 20 or newer, else one of the project's.

SHELL := bash
export PATH := $(CURDIR)/.venv/bin:$(PATH)
PY := .venv/bin/python
MARKS := .setup
STATIC := src/izmet/web/static/index.html
FRONT := $(shell find frontend -path frontend/node_modules -prune -o -type f -print)

.PHONY: demo set-up serve test quick fuzz soak stand-ins lint lint-python lint-front lint-types types format bench screenshots lock clean check-tools

demo: $(MARKS)/python $(STATIC)
	@.venv/bin/izmet demo

set-up: $(MARKS)/python $(STATIC)

serve: $(MARKS)/python $(STATIC)
	@.venv/bin/izmet serve

# All checks and tests, in two processes side by side.
test: lint $(MARKS)/chromium $(MARKS)/redis
	@$(PY) -m pytest -n 2 --dist worksteal

# What is quick: no browser, no media, no listening, and of each property a few examples.
quick: lint
	@$(PY) -m pytest -n 2 --hypothesis-profile=quick tests/core tests/store tests/exchange tests/web tests/frontend

lint: $(MARKS)/checks $(MARKS)/node $(STATIC)
	@$(MAKE) -s -j2 lint-types lint-front lint-python

lint-python:
	@.venv/bin/ruff format --check -q . && .venv/bin/ruff check -q .
	@.venv/bin/mypy --no-error-summary
	@.venv/bin/lint-imports > $(MARKS)/imports.log || { cat $(MARKS)/imports.log; exit 1; }
	@$(PY) scripts/describe.py --check

lint-front:
	@cd frontend && npm run -s lint

# What the front end says of the server's answers must be what the server says, and fit all that reads them.
lint-types:
	@cd frontend && npm run -s types -- -o ../$(MARKS)/schema.d.ts > /dev/null && \
	  { cmp -s ../$(MARKS)/schema.d.ts src/api/schema.d.ts || \
	    { echo "frontend/src/api/schema.d.ts is stale: run make types"; exit 1; }; }
	@cd frontend && npm run -s check

# Spoils documents, commands, cue files and media by chance, many times, and prints what became of them.
fuzz: $(MARKS)/checks $(STATIC)
	@IZMET_KILLS=20 IZMET_FUZZ=$(or $(ROUNDS),4000) $(PY) -m pytest tests/fuzz tests/jobs/test_kill.py -n 2 -rP | grep -E "tried|passed|failed"

# An hour of edits, plays and exports: memory must stay flat.
soak: $(MARKS)/checks $(STATIC)
	@$(PY) -m scripts.soak $(MINUTES)

# A Redis and an S3 store for trying several machines out on one; prints how Izmet finds them.
stand-ins: $(MARKS)/checks $(MARKS)/redis
	@$(PY) -m tests.standins

types: $(MARKS)/python $(MARKS)/node
	@$(PY) scripts/describe.py
	@cd frontend && npm run -s types -- -o src/api/schema.d.ts > /dev/null

format: $(MARKS)/checks $(MARKS)/node
	@.venv/bin/ruff format -q . && .venv/bin/ruff check -q --fix .
	@cd frontend && npm run -s format > /dev/null

bench: $(MARKS)/checks $(STATIC) $(MARKS)/chromium $(MARKS)/redis
	@$(PY) -m bench.run $(PART)

screenshots: $(MARKS)/checks $(STATIC) $(MARKS)/chromium $(MARKS)/redis
	@$(PY) scripts/screenshots.py

# Pins all Python packages with hashes, for every Python from 3.11 on: what the app runs on, what it is checked with.
lock: $(MARKS)/python
	@$(PY) -m venv $(MARKS)/lock && $(MARKS)/lock/bin/pip -q install uv
	@for name in requirements requirements-dev requirements-node; do \
	  $(MARKS)/lock/bin/uv pip compile -q --universal --python-version 3.11 --generate-hashes \
	    --no-emit-index-url --no-emit-find-links --custom-compile-command "make lock" \
	    --output-file $$name.txt $$name.in || exit 1; done

clean:
	@rm -rf .venv frontend/node_modules $(MARKS) src/izmet/web/static

check-tools:
	@scripts/check-tools

$(MARKS)/python: requirements.txt pyproject.toml | check-tools
	@mkdir -p $(MARKS)
	@echo "Setting up Python…"
	@scripts/make-venv
	@.venv/bin/pip -q install --disable-pip-version-check --require-hashes -r requirements.txt
	@.venv/bin/pip -q install --disable-pip-version-check --no-deps --no-build-isolation -e .
	@scripts/get-fribidi
	@echo "Compiling loops…"
	@$(PY) scripts/compile-loops
	@touch $@

$(MARKS)/checks: requirements-dev.txt | $(MARKS)/python
	@echo "Setting up what checks it…"
	@.venv/bin/pip -q install --disable-pip-version-check --require-hashes -r requirements-dev.txt
	@touch $@

$(MARKS)/node: frontend/package-lock.json frontend/package.json frontend/.npmrc | $(MARKS)/python
	@scripts/get-node
	@echo "Setting up the front end…"
	@cd frontend && npm ci --silent
	@touch $@

$(STATIC): $(FRONT) | $(MARKS)/node
	@cd frontend && npm run -s build -- --logLevel warn
	@touch $@

$(MARKS)/chromium: | check-tools
	@scripts/get-chromium
	@mkdir -p $(MARKS) && touch $@

$(MARKS)/redis: | check-tools
	@scripts/get-redis
	@mkdir -p $(MARKS) && touch $@
