#!/usr/bin/env bash
# Sees to it that Go and Node are here and new enough. Where Debian's own are
# too old, newer ones are fetched from the registries that the project builds
# from anyway, into .tools, which the Makefile puts first on the PATH.
set -euo pipefail
cd "$(dirname "$0")/.."
tools=$PWD/.tools

need=()
command -v go >/dev/null || need+=(golang-go)
command -v node >/dev/null || need+=(nodejs)
command -v npm >/dev/null || need+=(npm)
[ ${#need[@]} -eq 0 ] || scripts/packages.sh ca-certificates "${need[@]}"

node_major() { node -p 'process.versions.node.split(".")[0]'; }

if [ "$(node_major)" -lt 20 ]; then
  echo "Debian's Node $(node --version) is too old to build the console; fetching a newer one …"
  npm install --prefix "$tools/node" --no-audit --no-fund --loglevel=error node@22 npm@11 >/dev/null
  mkdir -p "$tools/bin"
  for program in node npm npx; do ln -sf "$tools/node/node_modules/.bin/$program" "$tools/bin/$program"; done
  hash -r
  [ "$(node_major)" -ge 20 ] || { echo "It did not come; install Node 20 or newer." >&2; exit 1; }
fi

# Go from 1.21 on fetches the version that go.mod names by itself.
if ! go version | grep -qE 'go1\.(2[1-9]|[3-9][0-9])'; then
  version=$(sed -n 's/^go //p' go.mod)
  echo "Debian's $(go version | cut -d' ' -f3) is too old; fetching Go $version …"
  module=golang.org/toolchain@v0.0.1-go$version.linux-$(dpkg --print-architecture)
  # Outside the project, whose go.mod an old Go cannot read.
  folder=$(cd / && go mod download -json "$module" | sed -n 's/.*"Dir": "\(.*\)".*/\1/p')
  [ -n "$folder" ] || { echo "It did not come; install Go 1.21 or newer." >&2; exit 1; }
  mkdir -p "$tools/bin"
  rm -rf "$tools/go"
  cp -r "$folder" "$tools/go"
  chmod -R u+w "$tools/go"
  chmod +x "$tools"/go/bin/* "$tools"/go/pkg/tool/*/*
  ln -sf "$tools/go/bin/go" "$tools/bin/go"
  ln -sf "$tools/go/bin/gofmt" "$tools/bin/gofmt"
fi
