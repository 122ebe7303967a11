# Each target sets up what it needs: system packages where it may, and .venv from the lock files.
PY := .venv/bin/python

.PHONY: setup setup-test demo test bench screenshots lint demo-files install uninstall licences

setup:
	@tools/setup.sh

setup-test:
	@tools/setup.sh --test

demo: setup
	@tools/demo.sh

test: setup-test
	@QT_QPA_PLATFORM=offscreen $(PY) -m pytest -n auto

bench: setup-test
	@QT_QPA_PLATFORM=offscreen $(PY) -m benchmarks

screenshots:
	@tools/setup.sh --test fonts-ipafont-gothic
	@$(PY) tools/screenshots.py

lint: setup-test
	@$(PY) -m ruff format --check src tests tools benchmarks
	@$(PY) -m ruff check src tests tools benchmarks
	@$(PY) -m mypy
	@.venv/bin/lint-imports

demo-files: setup
	@$(PY) -m zweistimme.demo.make

# for the user who calls it, in ~/.local (or PREFIX)
install:
	@tools/install.sh

uninstall:
	@tools/install.sh --remove

licences: setup
	@$(PY) tools/licences.py > docs/licences.md
