#!/usr/bin/env bash
# Install Zweistimme for the user who calls this, with launcher, icon, manual page and the type of packed projects; or
# take it away again. Projects, settings and the ledger stay where they are either way.
#   tools/install.sh [--remove]      PREFIX=~/.local says where
set -euo pipefail
cd "$(dirname "$0")/.."
prefix=${PREFIX:-$HOME/.local}
share=$prefix/share
home=$share/zweistimme/venv
FILES="bin/zweistimme share/applications/zweistimme.desktop share/icons/hicolor/scalable/apps/zweistimme.svg
 share/mime/packages/zweistimme.xml share/man/man1/zweistimme.1"

refresh() {
    ! command -v update-desktop-database >/dev/null || update-desktop-database -q "$share/applications" || true
    ! command -v update-mime-database >/dev/null || update-mime-database "$share/mime" >/dev/null 2>&1 || true
}

if [ "${1:-}" = --remove ]; then
    for file in $FILES; do rm -f "$prefix/$file"; done
    rm -rf "$home"
    refresh
    echo "Zweistimme is no longer installed in $prefix. Projects and settings were left alone."
    exit 0
fi

tools/setup.sh
python=$(readlink -f .venv/bin/python)
echo "Installing into $prefix"
made=$home.new
rm -rf "$made"
"$python" -m venv "$made"
"$made/bin/python" -m pip install -q --disable-pip-version-check --require-hashes -r requirements.lock
"$made/bin/python" -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation .
rm -rf "$home"
mv "$made" "$home"
for file in $FILES; do mkdir -p "$(dirname "$prefix/$file")"; done
# a script of our own: those of a .venv name the place where they were made
printf '#!/bin/sh\nexec "%s/bin/python" -c "from zweistimme.cli.main import main; main()" "$@"\n' "$home" > "$prefix/bin/zweistimme"
chmod 755 "$prefix/bin/zweistimme"
sed "s|@COMMAND@|$prefix/bin/zweistimme|" packaging/zweistimme.desktop > "$share/applications/zweistimme.desktop"
cp packaging/zweistimme.svg "$share/icons/hicolor/scalable/apps/zweistimme.svg"
cp packaging/zweistimme.xml "$share/mime/packages/zweistimme.xml"
"$home/bin/python" tools/man_page.py > "$share/man/man1/zweistimme.1"
refresh
echo "Done: $prefix/bin/zweistimme"
case ":$PATH:" in *":$prefix/bin:"*) ;; *) echo "$prefix/bin is not on your PATH; add it to call it by its name." ;; esac
