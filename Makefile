# Jentrow's two commands are `make demo` and `make test`; both do all set-up that they need, and
# none that is done already. The rest are steps of theirs, and can be called alone.

PYTHON ?= python3
BIN := .venv/bin
INSTALL := $(BIN)/python -m pip install -q --no-compile --disable-pip-version-check
WEB := jentrow/web/index.html
STAMPS := .stamps
PORT ?= 8400

# Every process of the tests would compile anew what it imports.
unexport PYTHONDONTWRITEBYTECODE

.DEFAULT_GOAL := help
.PHONY: help demo test test-long build lint lint-python lint-web check-types format lock benchmarks clean

help:
	@echo "make demo         set up, and start Jentrow with demo data (PORT=8400, ENGINE=postgresql)"
	@echo "make test         set up, and run every check"
	@echo "make test-long    what holds in general on many more examples, and lines of all the code counted (slow)"
	@echo "make build        set up, and build the front end"
	@echo "make lint         format, lint, types and import contracts"
	@echo "make format       put the code into its format"
	@echo "make benchmarks   print speed ratios measured now"
	@echo "make lock         pin the dependencies anew (slow)"
	@echo "make clean        remove everything that was built or installed here"

demo: build
	$(BIN)/jentrow demo --port $(PORT) $(if $(ENGINE),--engine $(ENGINE))

# The front end is built and checked as soon as what it needs is there, while Python's packages are installed.
# Three processes keep two cores busy: a test with a browser or a server waits for most of its time.
# Lines are counted by `make test-long`: a test whose lines are counted takes up to twice as long.
# What mypy finds out is kept where `make lint` has begun to: writing it down takes a quarter of the time.
test: export TYPES_KEPT = $(if $(wildcard .mypy_cache),,--cache-dir=/dev/null)
test:
	$(MAKE) --no-print-directory -j3 $(STAMPS)/browser lint-python lint-web
	$(BIN)/python -m tests.servers $(BIN)/pytest --numprocesses 3 --durations 20 --no-cov

test-long: $(STAMPS)/dev
	JENTROW_HYPOTHESIS=long $(BIN)/python -m tests.servers $(BIN)/pytest --numprocesses auto --no-cov \
		tests/core tests/records tests/api/test_contract.py tests/api/test_exercises.py
	$(BIN)/python -m tests.servers $(BIN)/pytest --numprocesses 3 \
		--cov --cov-report=term:skip-covered --cov-fail-under=85 \
		--ignore tests/browser

build: $(STAMPS)/run $(WEB)

# Two things at a time, as there are two cores: what Python needs, and what the front end needs.
lint:
	$(MAKE) --no-print-directory -j2 $(STAMPS)/dev $(STAMPS)/node
	$(MAKE) --no-print-directory -j2 lint-python lint-web

lint-python: $(STAMPS)/dev
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy $(TYPES_KEPT)
	$(BIN)/lint-imports

lint-web: $(WEB) check-types
	cd frontend && npm run -s lint
	cd frontend && npm run -s check

# The front end's types come from the OpenAPI document, and the words of closed sets from the core.
check-types: $(STAMPS)/dev $(STAMPS)/node
	$(BIN)/python -m jentrow.api.openapi > $(STAMPS)/openapi.json
	cmp $(STAMPS)/openapi.json frontend/openapi.json || \
		{ echo "frontend/openapi.json is stale; run: make format"; exit 1; }
	$(BIN)/python -m jentrow.api.terms > $(STAMPS)/terms.ts
	cmp $(STAMPS)/terms.ts frontend/src/api/terms.ts || \
		{ echo "frontend/src/api/terms.ts is stale; run: make format"; exit 1; }
	cd frontend && npx openapi-typescript openapi.json -o ../$(STAMPS)/schema.d.ts > /dev/null
	cmp $(STAMPS)/schema.d.ts frontend/src/api/schema.d.ts || \
		{ echo "frontend/src/api/schema.d.ts is stale; run: make format"; exit 1; }

format: $(STAMPS)/dev $(STAMPS)/node
	$(BIN)/ruff format .
	$(BIN)/ruff check --fix .
	$(BIN)/python -m jentrow.api.openapi > frontend/openapi.json
	$(BIN)/python -m jentrow.api.terms > frontend/src/api/terms.ts
	$(BIN)/python -m jentrow.core.exercises.packs.schema
	cd frontend && npm run -s types && npx eslint . --fix

benchmarks: $(STAMPS)/dev $(STAMPS)/browser $(WEB)
	$(BIN)/python -m benchmarks

# Extras are locked as they are asked for: `coverage` does not pin what asks for `coverage[toml]`.
lock: $(STAMPS)/dev
	for name in installer run dev; do \
		$(BIN)/pip-compile -q --no-emit-index-url --no-emit-find-links --no-header \
			--generate-hashes --no-strip-extras --allow-unsafe \
			-o requirements/$$name.lock requirements/$$name.in || exit 1; \
	done

clean:
	rm -rf .venv $(STAMPS) jentrow/web frontend/node_modules *.egg-info

$(STAMPS):
	mkdir -p $@

# Debian keeps venv in a package of its own.
$(BIN)/python: | $(STAMPS)
	@$(PYTHON) -c 'import ensurepip, venv' 2> /dev/null || \
		{ apt-get update -q && apt-get install -y -q --no-install-recommends python3-venv; }
	$(PYTHON) -m venv .venv

# The pip of a new environment is whichever came with Python: the pinned one does the rest.
$(STAMPS)/installer: requirements/installer.lock $(BIN)/python
	$(INSTALL) --require-hashes -r requirements/installer.lock
	touch $@

$(STAMPS)/run: requirements/run.lock pyproject.toml $(STAMPS)/installer
	$(INSTALL) --require-hashes -r requirements/run.lock
	$(INSTALL) --no-deps --no-build-isolation -e .
	touch $@

# What is installed is compiled when it is imported first: most of it never is.
$(STAMPS)/dev: requirements/dev.lock $(STAMPS)/run
	$(INSTALL) --require-hashes -r requirements/dev.lock
	touch $@

$(STAMPS)/node: frontend/package-lock.json frontend/package.json | $(STAMPS)
	cd frontend && npm ci --no-audit --no-fund --loglevel=error
	touch $@

# After Python: two packages cannot be installed at a time.
$(STAMPS)/browser: | $(STAMPS) $(BIN)/python
	command -v chromium-headless-shell > /dev/null && command -v chromedriver > /dev/null || \
		{ apt-get update -q && \
		  apt-get install -y -q --no-install-recommends chromium-headless-shell chromium-driver; }
	touch $@

$(WEB): $(STAMPS)/node $(shell find frontend/src frontend/public -type f) frontend/index.html \
		frontend/vite.config.ts frontend/tsconfig.json
	cd frontend && npm run -s build -- --logLevel warn
	touch $@
