# Sun Latch: `make demo` to try it, `make test` to check it.
PORT ?= 8000
DATA ?= $(CURDIR)/data
PY := .venv/bin/python
MAKEFLAGS += -j2 # the face is built while the core is installed
export SUNLATCH_DATA := $(abspath $(DATA))
# what is used is compiled when it is first used, and kept, whatever the machine is set to; what is installed is not, at once
unexport PYTHONDONTWRITEBYTECODE

.PHONY: help demo test search soak build bench shots lock api lint hooks clean

help:
	@sed -n 's/^\([a-z]*\):.*## /\1\t/p' Makefile | expand -t 10

.venv/.installed: requirements.lock pyproject.toml
	python3 -m venv .venv
	.venv/bin/pip install -q --no-compile --disable-pip-version-check --require-hashes -r requirements.lock
	.venv/bin/pip install -q --no-compile --disable-pip-version-check --no-build-isolation --no-deps -e .
	touch $@

.venv/.tested: .venv/.installed requirements-test.lock
	.venv/bin/pip install -q --no-compile --disable-pip-version-check --require-hashes -r requirements-test.lock
	touch $@

web/node_modules/.installed: web/package-lock.json web/package.json
	cd web && npm ci --silent
	touch $@

web/dist/index.html: docs/guide.md web/node_modules/.installed web/index.html web/vite.config.ts $(shell find web/src web/public -type f)
	cd web && npm run --silent build -- --logLevel warn
	touch $@

build: .venv/.installed web/dist/index.html

demo: build ## try it on the invented coast
	@$(PY) manage.py migrate -v0
	@$(PY) -m fieldworld.demo "$(SUNLATCH_DATA)/demo"
	@$(PY) manage.py demo "$(SUNLATCH_DATA)/demo" --sweep
	@exec $(PY) manage.py serve --port $(PORT) --link demo

test: build .venv/.tested ## all that must hold before anything lands
	bash tests/run.sh

# What cannot be quick: new examples for every property, and an hour's use.
search: build .venv/.tested ## new examples for every property
	HYPOTHESIS_PROFILE=search $(PY) -m pytest -n 2 --dist loadfile $$(grep -rl "from hypothesis" tests --include=test_*.py)

soak: build .venv/.tested ## an hour's use
	$(PY) -m bench.screen

lint: .venv/.tested web/node_modules/.installed ## style, types, import rules, what is generated
	bash tests/lint.sh

bench: build .venv/.tested ## what is fast, as ratios
	$(PY) -m bench $(ARGS)
	$(PY) -m bench.proof
	$(PY) -m bench.screen

# What is committed is linted first, as far as it changed.
hooks: ## once: lint before each commit
	git config core.hooksPath tests/hooks

shots: build .venv/.tested ## renew docs/screenshots
	@$(PY) -m fieldworld.demo "$(SUNLATCH_DATA)/demo"
	$(PY) tests/face/shots.py "$(SUNLATCH_DATA)/demo"

# The face's types come from the API, the API's from the core.
api: .venv/.installed web/node_modules/.installed ## renew the schemas and the generated types
	$(PY) manage.py export_openapi_schema --api studio.api.api --indent 1 > docs/openapi.json
	$(PY) -m sunlatch.cli schema > docs/scene.schema.json
	cd web && npm run --silent api

lock:
	pip-compile -q --generate-hashes --no-emit-index-url --no-emit-find-links --no-emit-trusted-host --strip-extras --allow-unsafe -o requirements.lock requirements.in
	pip-compile -q --generate-hashes --no-emit-index-url --no-emit-find-links --no-emit-trusted-host --strip-extras --allow-unsafe -o requirements-test.lock requirements-test.in

clean:
	rm -rf .venv web/node_modules web/dist
