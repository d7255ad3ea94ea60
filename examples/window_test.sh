#!/usr/bin/env bash
# Runs the windowed example with scripted keys and looks at the picture it leaves. Usage: window_test.sh PROGRAM FOLDER
set -euo pipefail
shot=$(mktemp --suffix .png)
trap 'rm -f "$shot"' EXIT
start=()
if command -v xvfb-run >/dev/null; then
  start=(xvfb-run -a -s "-screen 0 1280x800x24")
else
  export SDL_VIDEODRIVER=dummy
  echo "no Xvfb: run with the dummy video driver"
fi
said=$("${start[@]}" "$1" "$2" --script "0.2:right 1.2:-right 1.5:space 2.4:f 6:right 7.4:-right" --until 7 --shot "$shot")
[ "$said" = "netted 1, stung 2, health 2" ] || { echo "expected one hit of one swing and two stings, got: $said"; exit 1; }
[ "$(head -c 4 "$shot" | tail -c 3)" = PNG ] && [ "$(stat -c %s "$shot")" -gt 8000 ] || { echo "the shot shows nothing"; exit 1; }
cp "$shot" "${WINDOW_SHOT:-/dev/null}"
