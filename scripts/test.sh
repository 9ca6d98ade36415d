#!/usr/bin/env bash
# Everything: formatting, vet, console types, Go tests with PostgreSQL and Chromium.
set -euo pipefail
cd "$(dirname "$0")/.."

scripts/packages.sh postgresql chromium gtkwave
make --no-print-directory -s bin/celandine

echo "Formatting …"
untidy=$(gofmt -l bench cli client cmd core desk e2e folder mistake release report service web/*.go)
if [ -n "$untidy" ]; then
  echo "gofmt would change these files:" >&2
  echo "$untidy" >&2
  exit 1
fi
echo "Vet …"
go vet ./...
echo "Console types …"
(cd web && npx svelte-check --tsconfig ./tsconfig.json --fail-on-warnings --output human)

echo "Contract …"
[ web/contract/node_modules/.package-lock.json -nt web/contract/package-lock.json ] || {
  (cd web/contract && npm ci --no-audit --no-fund --no-update-notifier --loglevel=error)
  touch web/contract/node_modules/.package-lock.json
}

echo "Alerts …"
scripts/alerts.sh 0

settings="-c fsync=off -c synchronous_commit=off -c full_page_writes=off -c max_connections=300"
CELANDINE_TEST_DATABASE=$(scripts/postgres.sh start .celandine/test-postgres "$settings")
export CELANDINE_TEST_DATABASE
trap 'scripts/postgres.sh stop .celandine/test-postgres' EXIT
echo "Tests …"
go test -p 3 ./... # as many packages at once as wait for something besides the two cores
