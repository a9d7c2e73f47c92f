# make demo: install, build, lay the demo data, serve on http://localhost:8321
# make check: lint, types and the quick tests, in less than 90 seconds; make test: all tests but most of those in the browser and on
# PostgreSQL; make whole: all of them; make bench: the figures
# Debian's own where it can make an environment: it is built for speed, another may take a tenth longer over everything
PYTHON ?= $(firstword $(shell for one in /usr/bin/python3 python3; do $$one -c 'import ensurepip, sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null && echo $$one; done) python3)
VENV := .venv
BIN := $(VENV)/bin
export PATH := $(CURDIR)/$(BIN):$(PATH)
SOURCES := $(shell find frontend/src frontend/index.html frontend/public frontend/package.json frontend/vite.config.ts frontend/tsconfig.json -type f 2>/dev/null)
DEBIAN_READ := tesseract-ocr tesseract-ocr-eng tesseract-ocr-por tesseract-ocr-fra tesseract-ocr-deu tesseract-ocr-spa fonts-ocr-b
DEBIAN_TEST := chromium $(DEBIAN_READ) shared-mime-info postgresql poppler-utils libreoffice-calc-nogui
PORT ?= 8321

.PHONY: demo debian-read test whole check checked units coverage bench bench-large install front clean debian lint lint-python lint-front format shots texts

demo: install front debian-read
	$(BIN)/jolly-clerk demo --data data/demo --kept build/demo
	$(BIN)/jolly-clerk serve --data data/demo --demo --port $(PORT)

# compiled once here, also where Python is told to leave no compiled files about: each process begins about a second sooner
install: $(VENV)/.installed jolly_clerk/texts/.compiled
	@$(BIN)/python -m compileall -q -j 0 jolly_clerk bench tests tools

# the catalogues of texts: every message in the program found, the files of each language brought up to date
texts: $(VENV)/.installed
	$(BIN)/python tools/texts.py

jolly_clerk/texts/.compiled: $(wildcard jolly_clerk/texts/*/LC_MESSAGES/*.po) $(VENV)/.installed
	$(BIN)/python tools/texts.py --compile
	touch $@

$(VENV)/.installed: requirements.txt requirements-dev.txt pyproject.toml
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements-dev.txt
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps -e .
	touch $@

frontend/node_modules/.package-lock.json: frontend/package.json frontend/package-lock.json $(VENV)/.installed
	cd frontend && npm ci --no-audit --no-fund --loglevel=error
	touch $@

build/openapi.json: $(shell find jolly_clerk -name '*.py' 2>/dev/null) $(VENV)/.installed
	mkdir -p build
	$(BIN)/jolly-clerk openapi > $@.new
	cmp -s $@.new $@ && rm $@.new && touch $@ || mv $@.new $@

frontend/src/api/schema.d.ts: build/openapi.json frontend/node_modules/.package-lock.json
	cd frontend && npm run --silent api -- --silent 2>/dev/null || (cd frontend && npm run api)
	touch $@

front: jolly_clerk/web/static/index.html

jolly_clerk/web/static/index.html: frontend/node_modules/.package-lock.json frontend/src/api/schema.d.ts $(SOURCES)
	cd frontend && npm run --silent build -- --logLevel warn
	find jolly_clerk/web/static/assets -size +1k \( -name '*.js' -o -name '*.mjs' -o -name '*.css' \) -exec gzip -9 -k -n -f {} +
	touch $@

debian-read:
	sh tools/debian-packages $(DEBIAN_READ)

debian:
	sh tools/debian-packages $(DEBIAN_TEST)

lint: lint-python lint-front

lint-python: install
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports

lint-front: front
	cd frontend && npm run --silent lint && npm run --silent types

format: install
	$(BIN)/ruff check --fix . ; $(BIN)/ruff format .
	cd frontend && npm run --silent format

units: front
	cd frontend && npm run --silent test -- --reporter=dot

# both languages beside each other, each telling what it found when it is done
checked: install front
	@$(MAKE) --no-print-directory -j 2 --output-sync=target lint-python lint-front units

check: checked
	$(BIN)/python tools/run_tests.py tests.core tests.shelf

test: debian checked
	$(BIN)/python tools/run_tests.py

# also the tests that make test leaves out to be quick (tools/reach.py); .ci/run asks for the same
whole: export JOLLY_CLERK_WHOLE = 1
whole: test

# which lines the tests reach, browser tests aside: one process, so it takes its time
coverage: install
	$(BIN)/python -m coverage run tools/run_tests.py -j 1 tests.core tests.shelf tests.store tests.letters tests.reading tests.cli tests.office tests.web tests.demo
	$(BIN)/python -m coverage report --skip-covered --sort=cover

bench: install front
	$(BIN)/python -m bench
	$(BIN)/python -m bench.reading
	-$(BIN)/python -m bench.reading_load
	-$(BIN)/python -m bench.machine
	JOLLY_CLERK_CHANGES=600 $(BIN)/python tools/run_tests.py -j 1 tests.shelf.test_mistakes.Mutations
	-$(BIN)/python -m bench.many_files
	JOLLY_CLERK_CASES=40 JOLLY_CLERK_ORDERS=200 JOLLY_CLERK_EXAMPLES=40 JOLLY_CLERK_KEYS=15 $(BIN)/python tools/run_tests.py tests.browser.test_forty_cases tests.browser.test_large_desk tests.web.test_interleavings tests.web.test_two_at_work tests.web.test_web
	JOLLY_CLERK_EXAMPLES=8 $(BIN)/python tools/run_tests.py --engine postgresql tests.web.test_web tests.web.test_bounds tests.web.test_numbers
	$(BIN)/python tools/run_tests.py --left
	-$(BIN)/python -m bench.clients 60 180
	-$(BIN)/python -m bench.workers 20
	-$(BIN)/python -m bench.large 20000
	-$(BIN)/python -m bench.officers 20 60 20000

# the same with an office of two hundred thousand cases; takes up to an hour
bench-large: install front
	-$(BIN)/python -m bench.large 200000
	$(BIN)/python -m bench.officers 20 60 200000

shots: install front
	$(BIN)/python tools/screenshots.py

clean:
	rm -rf build jolly_clerk/web/static frontend/node_modules $(VENV) data
