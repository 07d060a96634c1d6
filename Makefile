# make demo   install, build, load the demo world, start: the one command
# make start  the same with an empty database of one's own: prints where the first coach makes an account
# make test   every check: the other command
# make bench  speed, memory and accuracy, measured here and now

SHELL := /bin/bash
PYTHON ?= python3.11
PORT ?= 8000
VENV := .venv
BIN := $(VENV)/bin
MANAGE := $(BIN)/python server/manage.py
export PIP_DISABLE_PIP_VERSION_CHECK := 1
export NPM_CONFIG_UPDATE_NOTIFIER := false

.PHONY: setup demo start test bench bench-attack types lock browser shots clean

setup: $(VENV)/.installed web/node_modules/.installed

# The general pose network that the lifter network begins from comes out of a package, pinned by version and hash.
training/pose_landmark_full.tflite: weights/package-lock.json
	cd weights && npm ci --no-progress --loglevel=error
	cp weights/node_modules/@mediapipe/pose/pose_landmark_full.tflite $@
	touch $@

$(VENV)/.installed: requirements/dev.txt pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --require-hashes -r requirements/dev.txt
	$(BIN)/pip install --quiet --no-deps --no-build-isolation -e .
	touch $@

web/node_modules/.installed: web/package-lock.json
	cd web && npm ci --no-progress --loglevel=error
	touch $@

web/dist/.built: web/node_modules/.installed $(shell find web/src web/index.html web/vite.config.ts -type f 2>/dev/null)
	cd web && npx vite build --logLevel error
	touch $@

demo: export ATLETA_DEMO := 1
demo: setup web/dist/.built
	$(MANAGE) migrate --verbosity 0
	$(MANAGE) load_demo
	$(MANAGE) up --demo --port $(PORT)

# What one enters oneself has a place of its own, beside the demo world's.
start: export ATLETA_VAR := $(or $(ATLETA_VAR),$(CURDIR)/var/own)
start: setup web/dist/.built
	$(MANAGE) up --port $(PORT)

# Chromium comes from the system's packages; as root it is installed here, otherwise its absence is said in words.
browser:
	@command -v chromium >/dev/null || { [ "$$(id -u)" = 0 ] && apt-get update -qq && apt-get install -y -qq chromium >/dev/null; } \
	  || { echo "Chromium is needed for the browser tests: install the package 'chromium' and run again."; exit 1; }

types: setup
	$(MANAGE) spectacular --validate --fail-on-warn --file docs/openapi.yaml
	cd web && npm run -s types

test: setup web/dist/.built browser
	$(BIN)/ruff check --quiet core server tests bench demo docs training
	$(BIN)/ruff format --check --quiet core server tests bench demo docs training
	$(BIN)/mypy
	PYTHONPATH=server DJANGO_SETTINGS_MODULE=atleta_site.settings $(BIN)/lint-imports
	$(MANAGE) makemigrations --check --dry-run
	$(BIN)/python docs/check_generated.py
	cd web && npm run -s check && npm run -s test
	$(BIN)/pytest -n 2 --dist loadscope --no-loadscope-reorder

bench: setup web/dist/.built browser
	test -x .venv-bench/bin/python || $(PYTHON) -m venv .venv-bench
	.venv-bench/bin/pip install --quiet --require-hashes -r requirements/bench.txt
	PYTHONPATH=core:. .venv-bench/bin/python bench/run.py
	$(BIN)/python demo/film.py --recipe bench/unseen.toml --out bench/.unseen
	$(BIN)/python -m bench.tracking
	$(BIN)/python -m bench.lifts
	$(BIN)/python -m bench.rules
	$(BIN)/python -m bench.chains
	$(BIN)/python -m bench.limits
	$(BIN)/python -m bench.stepping
	$(BIN)/python -m bench.scale
	$(if $(FOREIGN),$(BIN)/python -m bench.foreign $(FOREIGN))

bench-attack: setup web/dist/.built
	$(BIN)/python -m bench.attack

shots: setup web/dist/.built browser
	$(BIN)/python -m docs.take_screenshots

# Needs uv; writes requirement files with hashes and without addresses.
lock:
	for name in runtime dev bench; do uv pip compile -q --generate-hashes --no-emit-index-url --no-emit-find-links --python-version 3.11 \
	  --universal --no-header requirements/core.in requirements/$$name.in -o requirements/$$name.txt; done

clean:
	rm -rf web/dist .pytest_cache .mypy_cache .ruff_cache .import_linter_cache
