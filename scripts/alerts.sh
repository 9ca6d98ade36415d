#!/usr/bin/env bash
# Checks docs/alerts.yml with promtool of Debian's prometheus package. The package is unpacked, not installed: it would start a server.
set -euo pipefail
cd "$(dirname "$0")/.."

tool=.tools/promtool
if [ ! -x "$tool" ]; then
  mkdir -p .tools
  work=$(mktemp -d)
  trap 'rm -rf "$work"' EXIT
  (cd "$work" && apt-get download -q prometheus >/dev/null 2>&1 && dpkg-deb -x prometheus_*.deb unpacked)
  install -m 755 "$work/unpacked/usr/bin/promtool" "$tool"
fi
"$tool" check rules docs/alerts.yml
