#!/usr/bin/env bash
# Everything a fresh machine needs: system packages where we may install them, and .venv from the lock files.
# Safe to run again: it does nothing when nothing has changed.
#   tools/setup.sh [--test] [PACKAGE …]     --test: also what only the tests need; more system packages may be named
set -euo pipefail
cd "$(dirname "$0")/.."

PACKAGES="libgl1 libegl1 libglib2.0-0 libfontconfig1 libdbus-1-3 libxkbcommon0 fonts-dejavu-core
 libpulse0 libxrandr2 libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0
 libxcb-render-util0 libxcb-shape0 libxkbcommon-x11-0 libenchant-2-2"
PYTHON=${PYTHON:-python3}
locks=requirements.lock
test=""
if [ "${1:-}" = --test ]; then
    test=yes
    shift
    locks="requirements.lock requirements-test.lock"
    PACKAGES="$PACKAGES xvfb xauth dbus"
    # the tests of playback start a sound server of their own; where a desktop has another one, it is left alone
    dpkg-query -W -f='${db:Status-Status}\n' pipewire-pulse 2>/dev/null | grep -qx installed ||
        PACKAGES="$PACKAGES pulseaudio pulseaudio-utils"
fi
PACKAGES="$PACKAGES $*"

installed() {
    # newer releases call some libraries by another name, which provides the old one
    dpkg-query -W -f='${db:Status-Status}\n' "$1" 2>/dev/null | grep -qx installed ||
        dpkg-query -W -f='${db:Status-Status}\n' "${1}t64" 2>/dev/null | grep -qx installed
}

missing_packages() {
    command -v dpkg-query >/dev/null || return 0
    for name in $PACKAGES; do installed "$name" || echo "$name"; done
}

may_install() { command -v apt-get >/dev/null && { [ "$(id -u)" = 0 ] || sudo -n true 2>/dev/null; }; }

apt_install() {
    local sudo=""
    [ "$(id -u)" = 0 ] || sudo="sudo -n"
    $sudo apt-get update -qq >/dev/null
    # nothing that is there may be taken away for it
    DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-remove --no-install-recommends "$@" >/dev/null
}

"$PYTHON" -c 'import sys; sys.exit(sys.version_info < (3, 11))' ||
    { echo "Zweistimme needs Python 3.11 or newer; set PYTHON=/path/to/python3." >&2; exit 1; }

wanted=$(missing_packages)
"$PYTHON" -c 'import venv, ensurepip' 2>/dev/null || wanted="$wanted python3-venv"
if [ -n "${wanted// /}" ]; then
    if may_install; then
        echo "Installing system packages:" $wanted
        apt_install $wanted
    else
        echo "Please install these system packages (the window${test:+ and its tests} need them):" $wanted >&2
    fi
fi

# another Python, or another place, makes another .venv
made_from() { { cat "$@"; "$PYTHON" -VV; pwd; } | sha256sum | cut -d' ' -f1; }
pip() { .venv/bin/python -m pip "$@" -q --disable-pip-version-check; }

stamp=$(made_from requirements.lock pyproject.toml)
if [ "$(cat .venv/.stamp 2>/dev/null)" != "$stamp" ]; then
    echo "Setting up .venv: $(grep -c '==' requirements.lock) packages from requirements.lock"
    "$PYTHON" -m venv --clear .venv
    pip install --require-hashes -r requirements.lock
    pip install --no-deps --no-build-isolation -e .
    echo "$stamp" > .venv/.stamp
fi
stamp=$(made_from $locks pyproject.toml)
if [ -n "$test" ] && [ "$(cat .venv/.stamp-test 2>/dev/null)" != "$stamp" ]; then
    echo "Adding to it: $(grep -c '==' requirements-test.lock) packages from requirements-test.lock"
    pip install --require-hashes -r requirements-test.lock
    echo "$stamp" > .venv/.stamp-test
fi
.venv/bin/python tools/messages.py compile
