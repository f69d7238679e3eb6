# Everything a person or a machine does with this project, by name.
PYTHON ?= python3
BIN := .venv/bin
CHROMIUM ?= /usr/bin/chromium-headless-shell
REDIS := /usr/bin/redis-server
export MORPHE_HOME ?= var
export MORPHE_PORT ?= 8100
export MORPHE_HOST ?= 127.0.0.1
export MORPHE_NETWORK ?= $(NETWORK)
# compiled code is kept, whatever the shell says: every process starts a third sooner
export PYTHONDONTWRITEBYTECODE :=

.PHONY: install run test check bench shots lock vendor demo clean

## what a person needs
install: .venv/.ready

run: install
	@$(BIN)/python -m morphe.web.serve

## what a developer needs
test: check $(CHROMIUM) $(REDIS)
	$(BIN)/python -m pytest

check: .venv/.ready-dev node_modules/.ready
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	npx --no-install eslint src/morphe tests/js
	node --test tests/js

bench: .venv/.ready-dev $(REDIS)
	$(BIN)/python -m bench

shots: .venv/.ready-dev $(CHROMIUM)
	$(BIN)/python docs/take_screenshots.py docs/screenshots

demo: .venv/.ready
	$(BIN)/python -m morphe.core.standins.demo src/morphe/web/demo .cache/demo-frames
	$(BIN)/python -m morphe.core.standins.demo_card src/morphe/web/demo

vendor:
	./vendor/copy.sh

lock: .venv/.ready-dev
	$(BIN)/pip-compile --quiet --strip-extras --no-annotate --no-header --no-emit-index-url \
	  --no-emit-trusted-host --no-emit-find-links -o requirements.txt pyproject.toml
	$(BIN)/pip-compile --quiet --strip-extras --no-annotate --no-header --no-emit-index-url \
	  --no-emit-trusted-host --no-emit-find-links --extra dev -c requirements.txt -o requirements-dev.txt pyproject.toml

clean:
	rm -rf .venv node_modules .cache var build test-results

## files behind the names above
.venv/bin/python:
	@$(PYTHON) -c 'import ensurepip' 2>/dev/null || apt-get install -y --no-install-recommends python3-venv
	$(PYTHON) -m venv .venv

.venv/.ready: requirements.txt pyproject.toml | .venv/bin/python
	@echo "Installing what Morphe needs (a few minutes the first time) …"
	$(BIN)/pip install --quiet --disable-pip-version-check -r requirements.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps -e .
	@/sbin/ldconfig -p | grep -q 'libseccomp\.so\.2' || apt-get install -y --no-install-recommends libseccomp2 \
	  || echo "libseccomp is missing: clips will be decoded without that guard."
	@echo "Compiling the kernels …"
	$(BIN)/python -m morphe.core.handover.warm_up
	$(BIN)/python -m morphe.core.practice.warm_up
	@touch $@

.venv/.ready-dev: .venv/.ready requirements-dev.txt
	@echo "Installing what its tests need …"
	$(BIN)/pip install --quiet --disable-pip-version-check -r requirements-dev.txt
	@touch $@

node_modules/.ready: package-lock.json
	@command -v npm >/dev/null || apt-get install -y --no-install-recommends nodejs npm
	npm ci --no-audit --no-fund --silent
	@touch $@

$(CHROMIUM):
	apt-get update && apt-get install -y --no-install-recommends chromium-headless-shell

$(REDIS):
	apt-get update && apt-get install -y --no-install-recommends redis-server iproute2
