#!/usr/bin/env bash
# How long each page's call takes as the records grow to a million hand-ins, on a database of its own.
set -euo pipefail
cd "$(dirname "$0")/.."

scripts/prepare.sh postgresql
. scripts/own-service.sh

trap end_own_service EXIT
metrics=127.0.0.1:9572
own_arguments="--metrics $metrics" own_service .celandine/grow 8610
go run ./e2e/grow "$address" "http://$metrics/metrics"
