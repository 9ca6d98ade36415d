#!/usr/bin/env bash
# Remakes docs/screenshots from the demo data: console pages in Chromium,
# commands in a terminal window under Xvfb.
set -euo pipefail
cd "$(dirname "$0")/.."

scripts/prepare.sh postgresql chromium-headless-shell xvfb xterm imagemagick fonts-dejavu-core
mkdir -p docs/screenshots
out=$PWD/docs/screenshots
work=.celandine/screenshots

. scripts/own-service.sh

finish() {
  trap - EXIT
  kill "${display:-}" 2>/dev/null || true
  end_own_service
  wait 2>/dev/null || true
}
trap finish EXIT

echo "Pages …"
own_service "$work" 8560
go run ./e2e/screenshots "$address" "$out"

echo "Terminal …"
number=90
while [ -e "/tmp/.X$number-lock" ]; do number=$((number + 1)); done
Xvfb ":$number" -screen 0 1280x800x24 -nolisten tcp >/dev/null 2>&1 &
display=$!
export DISPLAY=":$number"
until [ -e "/tmp/.X11-unix/X$number" ]; do kill -0 "$display"; sleep 0.1; done

# shoot NAME COMMAND…: the command and what it prints, in a terminal window
shoot() {
  local name=$1 shown=$2
  local ready
  ready=$(mktemp -u)
  PATH="$PWD/bin:$PATH" LC_ALL=C.UTF-8 xterm -geometry 103x32+0+0 -fa 'DejaVu Sans Mono' -fs 14 -bg '#fffefa' -fg '#26241c' -b 16 +sb \
    -e bash -c "cd courses/glasshouse; printf '\$ %s\n' \"$shown\"; $shown; touch $ready; sleep 30" &
  local window=$!
  until [ -e "$ready" ]; do kill -0 "$window"; sleep 0.1; done
  sleep 0.5
  /usr/bin/import -window root "$out/$name.png"
  kill "$window" 2>/dev/null || true
  wait "$window" 2>/dev/null || true
  rm -f "$ready"
}
shoot grade 'celandine grade exercises/mist-hold-in handins/mist-hold-in/st*'
shoot explain 'celandine explain handins/vent-settle-delay/preset-ten-times-too-short.ladder --exercise exercises/vent-settle-delay --signal vent --scan 150'
shoot verify 'celandine exercise verify drafts/fogger-run-on --strength'
shoot run 'celandine run examples/fan-overrun.ladder --script examples/fan-overrun.yaml --watch fogger_on,fan,overrun.ET'
echo "docs/screenshots: $(ls "$out" | wc -l) pictures"
