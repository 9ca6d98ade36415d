#!/usr/bin/env bash
# Sees to it that everything is here that a target needs, and builds bin/celandine: prepare.sh [PACKAGE …]
#
# First what can be wrong is looked at, then everything that is missing is named and installed at once, then it is built.
set -euo pipefail
cd "$(dirname "$0")/.."
. scripts/step.sh
tools=$PWD/.tools
export PATH=$tools/bin:$PATH npm_config_update_notifier=false

if [ -n "${PORT:-}" ] && ! { [[ $PORT =~ ^[0-9]+$ ]] && [ "$PORT" -ge 1 ] && [ "$PORT" -le 65535 ]; }; then
  echo "PORT=$PORT is no port: give a number from 1 to 65535, as in  make demo PORT=8460" >&2
  exit 2
fi
case $(uname -m) in
x86_64 | aarch64) ;;
*) echo "Celandine is built on amd64 and arm64; this machine is $(uname -m)." >&2; exit 1 ;;
esac

# One list of all that is missing.
wanted=("$@" ca-certificates git)
command -v go >/dev/null || wanted+=(golang-go)
command -v node >/dev/null || wanted+=(nodejs)
command -v npm >/dev/null || wanted+=(npm)
missing=()
for package in "${wanted[@]}"; do
  status=$(dpkg-query -W -f='${Status}' "$package" 2>/dev/null || true)
  [ "$status" = "install ok installed" ] || { [ "$package" = git ] && command -v git >/dev/null; } || missing+=("$package")
done
if [ ${#missing[@]} -gt 0 ]; then
  echo "Missing here: ${missing[*]}"
  as_root=()
  if [ "$(id -u)" -ne 0 ]; then
    if ! sudo -n true 2>/dev/null; then
      echo "Install them as root, then run this again:  apt-get install -y --no-install-recommends ${missing[*]}" >&2
      exit 1
    fi
    as_root=(sudo -n)
  fi
  apt() { "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get -q -o DPkg::Lock::Timeout=300 -o Acquire::Retries=2 "$@"; }
  step "Looking up Debian's packages" "10 s" "" apt -o APT::Update::Error-Mode=any update || echo "Not all lists of packages could be fetched (is there a network?); going on with those that are here." >&2
  step "Installing them" "1 min" "" apt install -y --no-install-recommends "${missing[@]}" || { echo "Is there a network? Or is another program installing packages just now?" >&2; exit 1; }
fi

fetch_node() { npm install --prefix "$tools/node" --no-audit --no-fund --loglevel=error node@22 npm@11; }
node_major() { node -p 'process.versions.node.split(".")[0]'; }
if [ "$(node_major)" -lt 20 ]; then
  step "Fetching Node 22: Debian's $(node --version) is too old for the console" "20 s" "" fetch_node || { echo "Is there a network? Or install Node 20 or newer yourself." >&2; exit 1; }
  mkdir -p "$tools/bin"
  for program in node npm npx; do ln -sf "$tools/node/node_modules/.bin/$program" "$tools/bin/$program"; done
  hash -r
fi

# Go from 1.21 on fetches the version that go.mod names by itself.
fetch_go() {
  local module
  module=golang.org/toolchain@v0.0.1-go$(sed -n 's/^go //p' go.mod).linux-$(dpkg --print-architecture)
  # Outside the project, whose go.mod an old Go cannot read.
  folder=$(cd / && go mod download -json "$module" | sed -n 's/.*"Dir": "\(.*\)".*/\1/p')
  [ -n "$folder" ] || return 1
  mkdir -p "$tools/bin"
  rm -rf "$tools/go"
  cp -r "$folder" "$tools/go"
  chmod -R u+w "$tools/go"
  chmod +x "$tools"/go/bin/* "$tools"/go/pkg/tool/*/*
  ln -sf "$tools/go/bin/go" "$tools/bin/go"
  ln -sf "$tools/go/bin/gofmt" "$tools/bin/gofmt"
}
if ! go version | grep -qE 'go1\.(2[1-9]|[3-9][0-9])'; then
  step "Fetching Go $(sed -n 's/^go //p' go.mod): Debian's $(go version | cut -d' ' -f3) is too old" "30 s" "" fetch_go || { echo "Is there a network? Or install Go 1.21 or newer yourself." >&2; exit 1; }
  hash -r
elif ! go version >/dev/null 2>&1; then
  echo "Go $(sed -n 's/^go //p' go.mod) cannot be fetched: is there a network?" >&2
  exit 1
fi

if ! make --no-print-directory -q bin/celandine 2>/dev/null; then
  step "Fetching the sources of Go libraries" "20 s" "" go mod download || { echo "Is there a network? The libraries come from Go's module proxy (GOPROXY is $(go env GOPROXY))." >&2; exit 1; }
  [ web/node_modules/.package-lock.json -nt web/package-lock.json ] || step "Fetching the console's libraries" "20 s" "" make --no-print-directory -s web/node_modules/.package-lock.json || { echo "Is there a network? The libraries come from the npm registry." >&2; exit 1; }
  step "Building the core for the browser" "40 s" "$(GOOS=js GOARCH=wasm go list -deps ./cmd/celandine-wasm | wc -l)" make --no-print-directory -s web/src/core/celandine.wasm
  step "Building the console" "10 s" "" make --no-print-directory -s web/dist/index.html
  step "Building celandine" "1 min" "$(go list -deps ./cmd/celandine | wc -l)" make --no-print-directory -s bin/celandine
fi
