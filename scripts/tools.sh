#!/usr/bin/env bash
# Sees to it that Go and Node are here and new enough.
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)

need=()
command -v go >/dev/null || need+=(golang-go)
command -v node >/dev/null || need+=(nodejs)
command -v npm >/dev/null || need+=(npm)
[ ${#need[@]} -eq 0 ] || "$here/packages.sh" "${need[@]}"

major=$(node -p 'process.versions.node.split(".")[0]')
if [ "$major" -lt 20 ]; then
  echo "Node $(node --version) is too old to build the console; it needs 20 or newer." >&2
  exit 1
fi
# Go from 1.21 on fetches the version that go.mod names by itself.
if ! go version 2>/dev/null | grep -qE 'go1\.(2[1-9]|[3-9][0-9])'; then
  echo "$(go version) is too old; install Go 1.21 or newer." >&2
  exit 1
fi
