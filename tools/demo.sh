#!/usr/bin/env bash
# The demo: the window where there is a display, else the whole example into demo-out/.
set -euo pipefail
cd "$(dirname "$0")/.."
data=src/zweistimme/demo/data
if [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ]; then
    exec .venv/bin/zweistimme window --demo
fi
echo "No display here, so the whole example runs without the window."
.venv/bin/zweistimme dub "$data/tide-clock.mp4" --title "The Tide Clock of Varnholm" --from en-GB \
    --to de-DE --to es-ES --bed "$data/tide-clock-bed.ogg" --out demo-out
.venv/bin/zweistimme status demo-out/project
