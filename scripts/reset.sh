#!/usr/bin/env bash
# Forgets the demo's data.
set -euo pipefail
cd "$(dirname "$0")/.."
[ -d .celandine ] || { echo "There is no demo data."; exit 0; }
exec 9>.celandine/lock
flock -n 9 || { echo "The demo is running; stop it with Ctrl-C first." >&2; exit 1; }
scripts/postgres.sh remove .celandine/postgres
rm -rf .celandine
echo "The demo data is gone; make demo makes it anew."
