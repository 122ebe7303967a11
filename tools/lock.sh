#!/usr/bin/env bash
# Make both lock files anew from pyproject.toml: the newest versions, for every Python we support, with hashes.
# Give "keep" to change nothing but what pyproject.toml asks for.
set -euo pipefail
cd "$(dirname "$0")/.."
place=$(mktemp -d)
trap 'rm -rf "$place"' EXIT
"${PYTHON:-python3}" -m venv "$place/venv"
"$place/venv/bin/python" -m pip install -q --disable-pip-version-check uv
: > "$place/kept"
[ "${1:-}" != keep ] || sed -n 's/^\([A-Za-z0-9_.-]*==[^ ;]*\).*/\1/p' requirements.lock requirements-test.lock > "$place/kept"
compiled() {
    "$place/venv/bin/uv" pip compile -q --universal --python-version 3.11 --generate-hashes --no-emit-index-url \
        --no-header --no-annotate -c "$place/kept" "$@" pyproject.toml
}
compiled --extra build > "$place/run"
compiled --extra build --extra dev > "$place/all"
{
    echo "# Exact versions, with hashes, of everything that Zweistimme runs with. Made by tools/lock.sh."
    cat "$place/run"
} > requirements.lock
{
    echo "# What Zweistimme is tested with besides what it runs with. Made by tools/lock.sh."
    awk 'NR == FNR { if (/^[^ #]/) { split($0, a, "=="); known[a[1]] = 1 }; next }
         /^[^ #]/ { split($0, a, "=="); show = !(a[1] in known) } show' "$place/run" "$place/all"
} > requirements-test.lock
