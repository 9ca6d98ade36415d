# make           this list
# make demo      set everything up and run the demo until Ctrl-C (PORT=8460)
# make test      every test, with a database and a browser of its own
# make build     the console and bin/celandine
# make bench     the benchmarks, as a table of ratios
# make oracle    a million random programs against the slow second reading of the language (hours)
# make load      a hundred learners hand in at once
# make grow      how long each page's call takes at a million hand-ins
# make screenshots   remake docs/screenshots from the demo data
# make alerts    check docs/alerts.yml with promtool
# make reset     forget the demo's data

SHELL := /bin/bash
export PATH := $(CURDIR)/.tools/bin:$(PATH)
console := $(shell find web/src web/public web/index.html web/vite.config.ts web/svelte.config.js web/tsconfig.json web/package-lock.json -type f -not -name celandine.wasm -not -name wasm_exec.js 2>/dev/null)
sources := $(shell find cmd cli client core desk folder mistake release report service web -name '*.go' -o -name '*.sql' -o -name 'packed*.txt' 2>/dev/null | grep -v node_modules)

.PHONY: help demo test build console tools screenshots reset bench load grow alerts oracle
help:
	@sed -n 's/^# //p' $(MAKEFILE_LIST)

tools:
	@scripts/tools.sh

web/node_modules/.package-lock.json: web/package.json web/package-lock.json
	@echo "Fetching the console's modules …"
	@cd web && npm ci --no-audit --no-fund --no-update-notifier --loglevel=error
	@touch $@

# The core for the browser, and Go's own script that loads it.
core := $(shell find core desk mistake cmd/celandine-wasm -name '*.go' -not -name '*_test.go')
web/src/core/celandine.wasm: $(core) go.mod go.sum
	@echo "Building the core for the browser …"
	@GOOS=js GOARCH=wasm go build -trimpath -ldflags='-s -w' -o $@ ./cmd/celandine-wasm
	@cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" web/src/core/wasm_exec.js

web/dist/index.html: $(console) web/node_modules/.package-lock.json web/src/core/celandine.wasm
	@echo "Building the console …"
	@cd web && npx vite build --logLevel warn

bin/celandine: $(sources) go.mod go.sum web/dist/index.html
	@echo "Building celandine …"
	@go build -trimpath -ldflags "-X celandine/release.stamp=$$(git describe --tags --always --dirty 2>/dev/null)" -o $@ ./cmd/celandine

build: tools
	@$(MAKE) --no-print-directory -s bin/celandine

demo: tools
	@scripts/packages.sh postgresql
	@$(MAKE) --no-print-directory -s bin/celandine
	@exec scripts/demo.sh

test: tools
	@scripts/test.sh

screenshots: tools
	@scripts/screenshots.sh

load: tools
	@scripts/load.sh

grow: tools
	@scripts/grow.sh

alerts:
	@scripts/alerts.sh

bench: tools
	@cd bench && go run .

PROGRAMS ?= 1000000
oracle: tools
	@go test ./core/oracle -run TestCode -count 1 -v -timeout 24h -programs $(PROGRAMS)

reset:
	@scripts/reset.sh
