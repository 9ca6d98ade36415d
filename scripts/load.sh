#!/usr/bin/env bash
# A hundred learners hand in at once, against a service and a database of their own.
set -euo pipefail
cd "$(dirname "$0")/.."

scripts/packages.sh postgresql
make --no-print-directory -s bin/celandine
. scripts/own-service.sh

trap end_own_service EXIT
own_service .celandine/load 8570
go run ./e2e/load "$address" courses/glasshouse
