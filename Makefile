# Each target sets up what it needs: system packages where it may, and .venv from requirements.lock.
PY := .venv/bin/python

.PHONY: setup demo test bench screenshots lint demo-files

setup:
	@tools/setup.sh

demo: setup
	@tools/demo.sh

test: setup
	@QT_QPA_PLATFORM=offscreen $(PY) -m pytest -n auto

bench: setup
	@QT_QPA_PLATFORM=offscreen $(PY) -m benchmarks

screenshots: setup
	@tools/setup.sh fonts-ipafont-gothic
	@$(PY) tools/screenshots.py

lint: setup
	@$(PY) -m ruff format --check src tests tools benchmarks
	@$(PY) -m ruff check src tests tools benchmarks
	@$(PY) -m mypy
	@.venv/bin/lint-imports

demo-files: setup
	@$(PY) -m zweistimme.demo.make
