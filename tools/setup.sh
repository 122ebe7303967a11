#!/usr/bin/env bash
# Everything a fresh machine needs: system packages where we may install them, and .venv from the lock file.
# Safe to run again: it does nothing when nothing has changed. More system packages may be named.
set -euo pipefail
cd "$(dirname "$0")/.."

PACKAGES="libgl1 libegl1 libglib2.0-0 libfontconfig1 libdbus-1-3 libxkbcommon0 fonts-dejavu-core
 libpulse0 libxrandr2 libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0
 libxcb-render-util0 libxcb-shape0 libxkbcommon-x11-0 xvfb xauth pulseaudio pulseaudio-utils $*"
PYTHON=${PYTHON:-python3}

missing_packages() {
    command -v dpkg-query >/dev/null || return 0
    for name in $PACKAGES; do
        dpkg-query -W -f='${db:Status-Status}\n' "$name" 2>/dev/null | grep -qx installed || echo "$name"
    done
}

may_install() { command -v apt-get >/dev/null && { [ "$(id -u)" = 0 ] || sudo -n true 2>/dev/null; }; }

apt_install() {
    local sudo=""
    [ "$(id -u)" = 0 ] || sudo="sudo -n"
    $sudo apt-get update -qq >/dev/null
    DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends "$@" >/dev/null
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
        echo "Please install these system packages (the window and its tests need them):" $wanted >&2
    fi
fi

stamp=$(cat requirements.lock pyproject.toml | sha256sum | cut -d' ' -f1)
if [ "$(cat .venv/.stamp 2>/dev/null)" != "$stamp" ]; then
    echo "Setting up .venv from requirements.lock"
    "$PYTHON" -m venv .venv
    .venv/bin/python -m pip install -q --disable-pip-version-check -r requirements.lock
    .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
    echo "$stamp" > .venv/.stamp
fi
