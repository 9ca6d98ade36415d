#!/usr/bin/env bash
# Checks docs/alerts.yml with promtool, and that its alerts fire (docs/alerts.test.yml). It is that of Debian's prometheus package. The package is unpacked, not installed: it would start a server.
# alerts.sh [STATUS]: the exit status where promtool cannot be fetched.
set -euo pipefail
cd "$(dirname "$0")/.."

tool=.tools/promtool
if [ ! -x "$tool" ]; then
  mkdir -p .tools
  work=$(mktemp -d)
  trap 'rm -rf "$work"' EXIT
  fetch() { (cd "$work" && apt-get download -q prometheus >/dev/null 2>&1); }
  fetch || { [ "$(id -u)" -eq 0 ] && apt-get -q update >/dev/null 2>&1 && fetch; } || {
    echo "promtool cannot be fetched here; docs/alerts.yml was not checked by it." >&2
    exit "${1:-1}"
  }
  (cd "$work" && dpkg-deb -x prometheus_*.deb unpacked)
  install -m 755 "$work/unpacked/usr/bin/promtool" "$tool"
fi
"$tool" check rules docs/alerts.yml
"$tool" test rules docs/alerts.test.yml
