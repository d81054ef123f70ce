# Two commands do all the set-up on a fresh machine: `make demo` and `make test`.

PORT ?= 8000
DATA ?= data
PYTHON ?= python3
BIN := .venv/bin
# Processes that test at once: one a core, two at least and four at most, since each plays the demo for itself.
WORKERS ?= $(shell n=$$(nproc 2>/dev/null || echo 2); [ $$n -lt 2 ] && n=2; [ $$n -gt 4 ] && n=4; echo $$n)
STAMPS := .stamps
SUDO := $(shell [ "$$(id -u)" = 0 ] || echo sudo)

# What does not wait for each other is done at once: packages of both kinds come down beside each other.
MAKEFLAGS += --jobs=2

export REEDLING_DATA := $(DATA)
export REEDLING_PORT := $(PORT)
# Without compiled files beside it, every process that starts reads the whole source in again.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo test check lint types contracts interface fix web client stale-client bench truth models torture screenshots clean

demo: $(STAMPS)/python $(STAMPS)/web  ## install, build, load the demo, serve
	@if [ -n "$(RESET)" ] || [ ! -f "$(DATA)/reedling.sqlite" ]; then $(BIN)/reedling demo $(if $(RESET),--reset); \
	else echo "The data in $(DATA) is kept. Start afresh with RESET=1."; fi
	@REEDLING_DEMO=yes $(BIN)/reedling serve

test: $(STAMPS)/python-test $(STAMPS)/web chromium lint types contracts stale-client interface  ## everything CI runs
	$(BIN)/pytest -q -n $(WORKERS) --dist worksteal

check: $(STAMPS)/python-test $(STAMPS)/node lint types contracts stale-client interface  ## what needs no browser and takes no time
	$(BIN)/pytest -q -n $(WORKERS) --dist worksteal --ignore=tests/browser -m "not slow"

lint: $(STAMPS)/python-test $(STAMPS)/node
	$(BIN)/ruff check src tests
	$(BIN)/ruff format --check -q src tests
	cd web && npx biome check .

types: $(STAMPS)/python-test $(STAMPS)/node
	$(BIN)/mypy
	cd web && npx tsc --noEmit

contracts: $(STAMPS)/python-test $(STAMPS)/node  ## which folder may import which, and what nothing uses
	$(BIN)/lint-imports --no-logo
	cd web && npx depcruise --config depcruise.cjs --output-type err src && npx knip

interface: $(STAMPS)/node  ## the interface's own tests, without a browser
	cd web && npx vitest run --reporter=dot

fix: $(STAMPS)/python-test $(STAMPS)/node
	$(BIN)/ruff check --fix src tests
	$(BIN)/ruff format src tests
	cd web && npx biome check --write .

client: $(STAMPS)/python $(STAMPS)/node  ## generate the web client from the API
	$(BIN)/reedling openapi > web/src/api/openapi.json
	cd web && npm run -s client

stale-client: $(STAMPS)/python  ## fail when the web client is not what the API says
	@$(BIN)/reedling openapi | cmp -s - web/src/api/openapi.json \
	  || { echo "web/src/api/openapi.json is stale: run make client"; exit 1; }

web: $(STAMPS)/web

bench: $(STAMPS)/python-test $(STAMPS)/web chromium
	$(BIN)/python -m tests.bench

truth: $(STAMPS)/python-test  ## whether what the screens say is true, in worlds that know; writes docs/truth.md
	$(BIN)/python -m tests.truth

models: $(STAMPS)/python-test  ## past fixes beside plain text and a model of sentences; writes docs/past-fixes.md
	$(BIN)/pip install -q --no-deps wordllama==0.4.0.post1 tokenizers==0.23.3 safetensors==0.8.0
	$(BIN)/python -m tests.sentence_models

torture: $(STAMPS)/python-test $(STAMPS)/web chromium  ## kill, crowd and fuzz a server of its own; KILLS=, MIXED=, FUZZ= seconds, WALKS=, VISITS=
	$(BIN)/python -m tests.torture --kills $(or $(KILLS),60) --mixed $(or $(MIXED),60) --fuzz $(or $(FUZZ),60) --walks $(or $(WALKS),1000) --visits $(or $(VISITS),30)

screenshots: $(STAMPS)/python-test $(STAMPS)/web chromium
	$(BIN)/python -m tests.browser.screenshots

.PHONY: chromium
chromium:
	@command -v chromium-headless-shell >/dev/null \
	  || { $(SUDO) timeout 120 apt-get update -qq; $(SUDO) timeout 300 apt-get install -y -qq chromium-headless-shell; } \
	  || command -v chromium >/dev/null \
	  || $(SUDO) apt-get install -y -qq chromium  # slower, but it will do

$(BIN)/pip:
	$(PYTHON) -m venv .venv

$(STAMPS)/python: $(BIN)/pip requirements.lock pyproject.toml
	@mkdir -p $(STAMPS)
	$(BIN)/pip install -q -r requirements.lock
	$(BIN)/pip install -q --no-deps -e .
	@touch $@

$(STAMPS)/python-test: $(STAMPS)/python requirements-test.lock
	$(BIN)/pip install -q -r requirements-test.lock
	@touch $@

$(STAMPS)/node: web/package-lock.json
	@mkdir -p $(STAMPS)
	cd web && npm install --silent --no-fund --no-audit
	@touch $@

$(STAMPS)/web: $(STAMPS)/node $(shell find web/src web/index.html web/public web/vite.config.ts web/rules.mjs web/begun.mjs src/reedling/core src/reedling/device \
  -type f -not -path 'web/public/rules/*' -not -path 'web/public/python/*' -not -name '*.pyc' 2>/dev/null)
	cd web && npm run -s build
	@touch $@

clean:
	rm -rf .venv .stamps web/node_modules web/dist
