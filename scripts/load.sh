#!/usr/bin/env bash
# A hundred learners hand in at once, against two services on a database of their own: one grades within requests, one queues everything.
set -euo pipefail
cd "$(dirname "$0")/.."

scripts/prepare.sh postgresql
. scripts/own-service.sh

trap 'kill "${queued:-}" 2>/dev/null || true; end_own_service' EXIT
metrics=127.0.0.1:9571
own_arguments="--metrics $metrics" own_service .celandine/load 8570
bin/celandine serve --listen 127.0.0.1:8590 --queued --sign-ins 1000 --hand-ins 0 2>/dev/null &
queued=$!
until (exec 3<>/dev/tcp/127.0.0.1/8590) 2>/dev/null; do sleep 0.1; done
CELANDINE_LOAD_PROCESSES="$own_process $queued" go run ./e2e/load "$address" http://127.0.0.1:8590 "http://$metrics/metrics" courses/glasshouse
