# make           this list
# make demo      set everything up and run the demo until Ctrl-C (PORT=8460)
# make test      every test, with a database and a browser of its own
# make build     the console and bin/celandine
# make bench     the benchmarks, as a table of ratios
# make bench-check   fails where a ratio is twice what was recorded
# make oracle    a million random programs against the slow second reading of the language (hours); make test has 2,000
# make mutants   what a test does not notice, of 200 changes of one operator or number each (an hour or two)
# make load      a hundred learners hand in at once
# make grow      how long each page's call takes at a million hand-ins
# make screenshots   remake docs/screenshots from the demo data
# make alerts    check docs/alerts.yml with promtool
# make release   binaries, Debian packages, checksums and a list of parts, in release/out
# make try-release   that it is reproducible, and that the package works on a bare Debian
# make hooks     look at the form of each commit before it is made (git config core.hooksPath)
# make reset     forget all data: the demo's, the tests'

SHELL := /bin/bash
export PATH := $(CURDIR)/.tools/bin:$(PATH)
console := $(shell find web/src web/public web/index.html web/vite.config.ts web/svelte.config.js web/tsconfig.json web/package-lock.json -type f -not -name "*.wasm" -not -name wasm_exec.js 2>/dev/null)
sources := $(shell find cmd cli client cluster core courses bridge folder mistake release report service web -name '*.go' -o -name '*.sql' -o -name 'packed*.txt' 2>/dev/null | grep -v node_modules) $(shell find courses/glasshouse -type f)

PORT ?= 8460

# What the binary says of itself: the version, and the commit that it was built from.
stamp = -X celandine/release.stamp=$(shell cat VERSION)+$(shell git describe --always --dirty --exclude '*' 2>/dev/null)

.PHONY: hooks help demo test build release try-release screenshots reset bench bench-check load grow alerts oracle mutants
help:
	@sed -n 's/^# //p' $(MAKEFILE_LIST)

web/node_modules/.package-lock.json: web/package.json web/package-lock.json
	@cd web && npm ci --no-audit --no-fund --no-update-notifier --loglevel=error
	@touch $@

# The core for the browser: what answers a key, and the whole. Beside them Go's own script that loads them. The first goes without
# inlining, which makes it a twentieth smaller, and without the files that begin with //go:build !editor.
core := $(shell find core bridge mistake cmd/celandine-wasm cmd/celandine-editor -name '*.go' -not -name '*_test.go')
web/src/core/celandine.wasm: $(core) go.mod go.sum
	@GOOS=js GOARCH=wasm go build -trimpath -ldflags='-s -w' -gcflags='all=-l' -tags editor -o web/src/core/editor.wasm ./cmd/celandine-editor
	@GOOS=js GOARCH=wasm go build -v -trimpath -ldflags='-s -w' -o $@ ./cmd/celandine-wasm
	@cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" web/src/core/wasm_exec.js

web/dist/index.html: $(console) web/node_modules/.package-lock.json web/src/core/celandine.wasm
	@cd web && npx vite build --logLevel warn

bin/celandine: $(sources) go.mod go.sum web/dist/index.html
	@go build -v -trimpath -ldflags "$(stamp)" -o $@ ./cmd/celandine

build:
	@scripts/prepare.sh

demo:
	@PORT=$(PORT) scripts/prepare.sh postgresql
	@exec bin/celandine demo --data .celandine --listen 127.0.0.1:$(PORT)

test:
	@scripts/prepare.sh postgresql chromium-headless-shell gtkwave
	@scripts/test.sh

release:
	@scripts/prepare.sh
	@scripts/release.sh

try-release:
	@scripts/prepare.sh debootstrap
	@scripts/try-release.sh

screenshots:
	@scripts/screenshots.sh

load:
	@scripts/load.sh

grow:
	@scripts/grow.sh

alerts:
	@scripts/alerts.sh

bench: build
	@cd bench && go run .

bench-check:
	@cd bench && go run . --check

PROGRAMS ?= 1000000
oracle: build
	@go test ./core/oracle -run TestCode -count 1 -v -timeout 24h -programs $(PROGRAMS)

MUTANTS ?= 200
SEED ?= 1
mutants:
	@go run -C tools ./mutants -n $(MUTANTS) -seed $(SEED)

hooks:
	@git config core.hooksPath .githooks && echo "Each commit is looked at now; git config --unset core.hooksPath ends that."

reset:
	@scripts/reset.sh
