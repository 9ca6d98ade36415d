#!/usr/bin/env bash
# For whoever doubts the tests: the browser tests several times in a row with a busy loop for each core beside them and less of a claim to the machine than those,
# then the whole suite, again and again.
#
#   stress.sh [BROWSER-RUNS [SUITES]]   5 and 2 where nothing is said
set -euo pipefail
cd "$(dirname "$0")/.."
export PATH=$PWD/.tools/bin:$PATH
runs=${1:-5} suites=${2:-2}
scripts/prepare.sh postgresql chromium-headless-shell

loops=()
finish() {
  [ ${#loops[@]} -eq 0 ] || kill "${loops[@]}" 2>/dev/null || true
  loops=()
}
trap finish EXIT
passed=0
for _ in $(seq "$(nproc)"); do
  (while :; do :; done) &
  loops+=($!)
done
for run in $(seq "$runs"); do
  began=$SECONDS
  if nice -n 5 go test ./e2e -count 1 -timeout 3h; then passed=$((passed + 1)); fi
  echo "browser tests, run $run of $runs, loaded: $((SECONDS - began)) s, $passed passed so far"
done
finish
whole=0
for run in $(seq "$suites"); do
  began=$SECONDS
  if go clean -testcache && make test; then whole=$((whole + 1)); fi
  echo "whole suite, run $run of $suites: $((SECONDS - began)) s, $whole passed so far"
done
echo "browser tests: $passed of $runs passed; whole suite: $whole of $suites passed"
[ "$passed" -eq "$runs" ] && [ "$whole" -eq "$suites" ]
