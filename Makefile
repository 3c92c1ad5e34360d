# Two commands do everything: `make demo` and `make test`. Both set up what is missing.
PYTHON ?= python3.11
VENV := .venv
BIN := $(VENV)/bin
WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/package-lock.json
export NOONTIDE_DATA ?= $(CURDIR)/var
# Bytecode is kept wherever a machine would not: every server and worker of the tests would compile all of it anew.
export PYTHONDONTWRITEBYTECODE =

.PHONY: demo test check lint lint-python lint-web bench coverage screenshots web types schema wheel browser clean

demo: $(VENV)/ready $(VENV)/kernels noontide/server/web_build/index.html ## load the demo projects, start, print the address
	$(BIN)/noontide demo

test: browser ## everything: lint, types, all tests, the browser too
	$(MAKE) --jobs 2 --output-sync=target lint $(VENV)/kernels
	NOONTIDE_DATA=$$(mktemp -d) $(BIN)/python -m pytest -n 3 --dist loadscope --no-loadscope-reorder

check: lint $(VENV)/kernels ## the quick one: lint, types, fast tests
	NOONTIDE_DATA=$$(mktemp -d) $(BIN)/python -m pytest -q -n 3 -m "not browser and not slow"

lint: lint-python lint-web

lint-python: $(VENV)/ready
	$(BIN)/ruff check noontide tests bench
	$(BIN)/ruff format --check --quiet noontide tests bench
	$(BIN)/lint-imports
	$(BIN)/mypy

lint-web: web/node_modules/ready noontide/server/web_build/index.html
	cd web && npm run --silent lint && npm run --silent types && npm run --silent test

bench: $(VENV)/ready ## the speed table, in units of one np.sin over 8,760 doubles
	$(BIN)/python -m bench.speed

coverage: $(VENV)/kernels ## how much of each room the quick tests run through
	$(BIN)/pip install --quiet --no-deps coverage==7.17.5 pytest-cov==7.1.0
	data=$$(mktemp -d); NOONTIDE_DATA=$$data $(BIN)/python -m pytest -q -n 3 -m "not browser and not slow" --cov=noontide --cov-report=json:$$data/coverage.json && \
	$(BIN)/python -m bench.coverage_by_room $$data/coverage.json

web: noontide/server/web_build/index.html

schema: $(VENV)/ready web/node_modules/ready ## the API's OpenAPI schema and the front end's types from it
	NOONTIDE_DATA=$$(mktemp -d) DJANGO_SETTINGS_MODULE=noontide.server.settings $(BIN)/python -m django spectacular --file docs/api/openapi.yaml
	$(BIN)/noontide schema > docs/formats/design.schema.json
	$(BIN)/noontide schema --parts > docs/formats/parts.schema.json
	$(BIN)/noontide schema --tariff > docs/formats/tariff.schema.json
	$(BIN)/noontide schema --demand > docs/formats/demand.schema.json
	$(BIN)/noontide schema --study > docs/formats/study.schema.json
	$(BIN)/noontide schema --openapi > web/design.openapi.json
	cd web && npm run --silent schema
	rm web/design.openapi.json

screenshots: $(VENV)/ready browser noontide/server/web_build/index.html ## the pictures of docs/screenshots, from a fresh demo
	data=$$(mktemp -d); $(BIN)/noontide demo --port 8031 --data $$data & server=$$!; until curl -s -o /dev/null http://localhost:8031/; do sleep 1; done; \
	$(BIN)/python docs/screenshots/take.py http://localhost:8031; kill $$server

wheel: $(VENV)/ready noontide/server/web_build/index.html ## a wheel that carries the built front end
	$(BIN)/python -m build --wheel --no-isolation

browser:
	@command -v chromium-headless-shell >/dev/null || { apt-get update && apt-get install -y --no-install-recommends chromium-headless-shell; } || command -v chromium || apt-get install -y --no-install-recommends chromium

$(VENV)/ready: pyproject.toml constraints.txt
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV) || python3 -m venv $(VENV)
	$(BIN)/pip install --quiet --no-deps --no-compile --requirement constraints.txt
	$(BIN)/pip install --quiet --no-deps --no-build-isolation --editable .
	touch $@

# The compiled loops once, so that nobody waits for them, nor several processes compile them side by side.
$(VENV)/kernels: $(VENV)/ready $(shell grep -rl njit noontide --include=*.py)
	$(BIN)/python -c "from noontide.core.warm import compile_kernels; from noontide.parts import built_in_parts; compile_kernels(built_in_parts())"
	touch $@

web/node_modules/ready: web/package-lock.json
	cd web && npm ci --no-fund --no-audit --loglevel=error
	touch $@

noontide/server/web_build/index.html: $(WEB_SOURCES) | web/node_modules/ready
	cd web && npm run --silent build -- --logLevel warn

clean:
	rm -rf $(VENV) web/node_modules noontide/server/web_build var dist
