#!/usr/bin/env bash
# A hundred learners hand in at once, against a service and a database of their own.
set -euo pipefail
cd "$(dirname "$0")/.."

scripts/packages.sh postgresql
make --no-print-directory -s bin/celandine
work=.celandine/load

finish() {
  trap - EXIT
  kill "${service:-}" 2>/dev/null || true
  wait 2>/dev/null || true
  scripts/postgres.sh remove "$work"
}
trap finish EXIT

scripts/postgres.sh remove "$work" 2>/dev/null || true
CELANDINE_DATABASE=$(scripts/postgres.sh start "$work")
export CELANDINE_DATABASE
bin/celandine course load courses/glasshouse --password glasshouse >/dev/null
port=8570
while (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null; do port=$((port + 1)); done
bin/celandine serve --listen "127.0.0.1:$port" --sign-ins 1000 2>/dev/null &
service=$!
for _ in $(seq 100); do
  (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null && break
  sleep 0.1
done
go run ./e2e/load "http://127.0.0.1:$port" courses/glasshouse
