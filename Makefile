# make setup    prepares .venv (with .venv/bin/bisectum) and the built front end
# make demo     starts Bisectum with the demo data; PORT=8765 and DATA=dir may be given
# make test     lint, types, import rules, tests, front-end tests, walks in Chromium
# make bench    speed and memory beside general-purpose libraries, and what the screen costs; make changes: what single changes cost;
#               make accuracy: distance from known geometry;
#               make background, make colours: how well the ground is taken away and colours are found
#               make photos: what photographs become; make overlay: how exactly and fast curves are laid over each other;
#               make pieces: what rules on pieces leave, and whether changes by hand hold
#               make strokes: pages of ink, middle lines, folds and kinds of pictures;
#               make sheets: register, close layouts, what a split loses;
#               make check: narrow places, repairs, what the stand-in cutter frees; make files: how exact and fast each kind is;
#               make touching: smooth lines where shapes touch; make moves: groups moved and moved back;
#               make presses: whether a press or a typed number is lost on a slow server (COUNT pairs a tray, TRAY=name, PART=1/3);
#               make stops: how soon Stop is obeyed;
#               make doors: what comes of damaged and hostile files; make damage: what a damaged data folder still does; make load: a heavy shelf out and in, many clients at once;
#               make placements: whether items that lie on each other anyhow reach a file;
#               make battery: whether strangers' pictures reach a file; make thresholds: what hangs on each constant (hours)

SHELL := /bin/bash
PORT ?= 8765
DATA ?= $(HOME)/.local/share/bisectum
PYTHON ?= $(shell for p in python3.11 python3 python; do $$p -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))' 2>/dev/null && echo $$p && break; done)
BIN := .venv/bin
CORE := $(shell find src/bisectum/core -name '*.py')
FRONT := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/package-lock.json

.PHONY: setup demo test bench changes accuracy background colours photos overlay pieces strokes sheets check files touching placements moves presses stops doors damage load battery thresholds screenshots api lint
.DELETE_ON_ERROR:

setup:
	@$(MAKE) --no-print-directory -j2 .venv/ready build/kernels web/dist/index.html

.venv/ready: pyproject.toml constraints.txt
	@[ -n "$(PYTHON)" ] || { echo "Python 3.11 is missing; install it, then run make again."; exit 1; }
	@[ -x $(BIN)/python ] || $(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --constraint constraints.txt --editable '.[dev]'
	@touch $@

# Kernels are compiled here, never in a person's first request. A changed file may be compiled into others, so all go.
build/kernels: .venv/ready $(CORE)
	@mkdir -p build
	@find src -name '*.nbi' -delete -o -name '*.nbc' -delete
	@$(BIN)/python -m bisectum.worker.kernels
	@touch $@

web/node_modules/.ready: web/package-lock.json
	@node -e 'process.exit(Number(process.versions.node.split(".")[0]) < 20 ? 1 : 0)' 2>/dev/null || { echo "Node.js 20 or newer is missing; install it, then run make again."; exit 1; }
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

web/dist/index.html: web/node_modules/.ready $(FRONT)
	cd web && npx --no-install vite build --logLevel warn

demo: setup
	@exec $(BIN)/bisectum serve --demo --port $(PORT) --data '$(DATA)'

# The front end's types of the API, from the API itself.
api: .venv/ready
	@mkdir -p build
	$(BIN)/python -c 'import json; from bisectum.main import api_description; print(json.dumps(api_description().openapi(), indent=1))' > build/openapi.json
	cd web && npx --no-install openapi-typescript ../build/openapi.json -o src/api/schema.ts
	$(BIN)/python -c 'import json; from bisectum.core.job import JobDocument; print(json.dumps(JobDocument.model_json_schema(), indent=1))' > docs/job.schema.json

lint: .venv/ready
	$(BIN)/ruff check src tests demo bench docs
	$(BIN)/mypy
	$(BIN)/lint-imports

test: setup
	$(MAKE) -j2 --output-sync lint front
	$(BIN)/pytest

front: web/node_modules/.ready
	cd web && npx --no-install vue-tsc --noEmit && npx --no-install vitest run

bench: setup
	$(BIN)/python bench/speed.py
	$(BIN)/python bench/front_end.py

changes: setup
	$(BIN)/python bench/changes.py

accuracy: setup
	$(BIN)/python bench/accuracy.py

background: setup
	$(BIN)/python bench/background.py

colours: setup
	$(BIN)/python bench/colours.py

photos: setup
	$(BIN)/python bench/photos.py

pieces: setup
	$(BIN)/python bench/pieces.py

strokes: setup
	$(BIN)/python bench/strokes.py

sheets: setup
	$(BIN)/python bench/sheets.py

check: setup
	$(BIN)/python bench/check.py

files: setup
	$(BIN)/python bench/files.py

touching: setup
	$(BIN)/python bench/touching.py $(COUNT)

moves: setup
	$(BIN)/python bench/moves.py $(COUNT)

presses: setup
	$(BIN)/python bench/presses.py $(TRAY)

stops: setup
	$(BIN)/python bench/stops.py

doors: setup
	$(BIN)/python bench/doors.py

damage: setup
	$(BIN)/python bench/damage.py

load: setup
	$(BIN)/python bench/load.py

placements: setup
	$(BIN)/python bench/placements.py $(COUNT)

overlay: setup
	$(BIN)/python bench/overlay.py

battery: setup
	$(BIN)/python bench/battery.py

thresholds: setup
	$(BIN)/python bench/thresholds.py

screenshots: setup
	$(BIN)/python docs/make_screenshots.py
