#!/usr/bin/env bash
# Forgets all data: the demo's, the tests', those of measurements.
set -euo pipefail
cd "$(dirname "$0")/.."
[ -d .celandine ] || { echo "There is no data."; exit 0; }
exec 9>>.celandine/lock
flock -n 9 || { echo "The demo is running; stop it with Ctrl-C first." >&2; exit 1; }

# Each PostgreSQL of ours notes where its files are; as root that may be outside this folder.
while read -r note; do
  home=$(cat "$note")
  if [ -f "$home/cluster/postmaster.pid" ]; then
    server=$(head -n 1 "$home/cluster/postmaster.pid")
    kill -INT "$server" 2>/dev/null || true
    while kill -0 "$server" 2>/dev/null; do sleep 0.1; done
  fi
  rm -rf "$home"
done < <(find .celandine -name home -path '*postgres/home' 2>/dev/null)
rm -rf .celandine
echo "All data is gone; make demo makes it anew."
