#!/usr/bin/env bash
# Holds make release to what it promises: two clones of the commit give the same bytes, the binaries say what they are, and the package does what docs/operating.md says
# on a bare Debian root, where that is possible.
set -euo pipefail
cd "$(dirname "$0")/.."
export PATH=$PWD/.tools/bin:$PATH

commit=$(git rev-parse HEAD) # both clones of this one, whatever is committed meanwhile
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
for clone in one two/in-another-folder; do
  echo "Release from a clone in $clone"
  git clone -q . "$work/$clone"
  git -C "$work/$clone" checkout -q "$commit"
  (cd "$work/$clone" && make --no-print-directory release)
done
diff "$work/one/release/out/SHA256SUMS" "$work/two/in-another-folder/release/out/SHA256SUMS"
echo "two builds, the same bytes"
rm -rf release/out
cp -r "$work/one/release/out" release/out
(cd release/out && sha256sum --quiet -c SHA256SUMS)
binary=release/out/celandine-$(cat VERSION)-linux-$(dpkg --print-architecture)
"$binary" --version
! ldd "$binary" 2>/dev/null || { echo "the binary is not static" >&2; exit 1; }
scripts/try-package.sh --if-possible
