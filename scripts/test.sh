#!/usr/bin/env bash
# Everything: formatting, vet, console types, Go tests with PostgreSQL and Chromium.
set -euo pipefail
cd "$(dirname "$0")/.."
. scripts/step.sh

echo "Formatting …"
untidy=$(gofmt -l bench cli client cluster cmd core courses bridge docs e2e folder mistake release report service tools web/*.go)
if [ -n "$untidy" ]; then
  echo "gofmt would change these files:" >&2
  echo "$untidy" >&2
  exit 1
fi
# Sentences that core/say makes are looked at as those that fmt makes.
sayers=celandine/core/say.Textf,celandine/core/say.Errorf
slips() { go vet -printf.funcs="$sayers" ./... && go vet -tags editor ./bridge/editor && go tool -modfile=tools/go.mod staticcheck ./...; }
step "Looking for slips in the Go code (vet, staticcheck)" "1 min the first time" "" slips
types() { (cd web && npx svelte-check --tsconfig ./tsconfig.json --fail-on-warnings --output human); }
step "Checking the console's types" "15 s" "" types
lint() { (cd web && npm run --silent lint); }
step "Looking for slips in the console (prettier, eslint)" "15 s" "" lint
state() { (cd web && npm run --silent test -- --reporter=dot); }
step "Trying the console's state against the core" "10 s" "" state
linter() { (cd web/contract && npm ci --no-audit --no-fund --no-update-notifier --loglevel=error) && touch web/contract/node_modules/.package-lock.json; }
[ web/contract/node_modules/.package-lock.json -nt web/contract/package-lock.json ] || step "Fetching what checks the contract and makes types of it" "20 s" "" linter
step "Trying the alerts" "5 s" "" scripts/alerts.sh 0
slower() { make --no-print-directory -s bench-check; }
step "Comparing speed with what was recorded, by ratios" "10 s" "" slower

trap 'go run ./cmd/own-postgres stop .celandine/test-postgres' EXIT
echo "Tests (usually 10 min; packages are told as they end) …"
# As many packages at once as wait for something besides the two cores; those that take longest first.
go test -p 4 -timeout 60m ./e2e/... ./service/... ./core/oracle ./...
