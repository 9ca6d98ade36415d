#!/usr/bin/env bash
# Makes what is given away, in release/out: static binaries with console and demo course inside, Debian packages, a list of parts (CycloneDX), checksums.
# The same commit gives the same bytes: times are the commit's, paths are left out.
set -euo pipefail
cd "$(dirname "$0")/.."
. scripts/step.sh
export PATH=$PWD/.tools/bin:$PATH CGO_ENABLED=0 LC_ALL=C TZ=UTC
SOURCE_DATE_EPOCH=$(git log -1 --format=%ct)
export SOURCE_DATE_EPOCH
umask 022

version=$(cat VERSION)
stamp=$version+$(git describe --always --dirty --exclude '*')
out=release/out
rm -rf "$out"
mkdir -p "$out"

binary() { GOOS=linux GOARCH=$1 go build -v -trimpath -buildvcs=false -ldflags "-s -w -buildid= -X celandine/release.stamp=$stamp" -o "$out/celandine-$version-linux-$1" ./cmd/celandine; }

package() {
  local root
  root=$(mktemp -d)
  install -D -m 755 "$out/celandine-$version-linux-$1" "$root/usr/bin/celandine"
  install -D -m 644 docs/celandine.service "$root/usr/lib/systemd/system/celandine.service"
  install -D -m 640 release/debian/celandine.yaml "$root/etc/celandine.yaml"
  mkdir -p "$root/usr/share/celandine/courses" "$root/usr/share/doc/celandine" "$root/DEBIAN"
  git archive HEAD courses/glasshouse | tar -x -C "$root/usr/share/celandine"
  install -m 644 README.md docs/*.md docs/alerts.yml "$root/usr/share/doc/celandine"
  install -m 755 release/debian/postinst release/debian/prerm release/debian/postrm "$root/DEBIAN"
  install -m 644 release/debian/conffiles release/debian/triggers "$root/DEBIAN"
  sed -e "s/@VERSION@/$version/" -e "s/@ARCHITECTURE@/$1/" -e "s/@SIZE@/$(du -sk --apparent-size "$root/usr" | cut -f1)/" release/debian/control >"$root/DEBIAN/control"
  find "$root" -exec touch -h -d "@$SOURCE_DATE_EPOCH" {} +
  dpkg-deb --root-owner-group -Zxz --build "$root" "$out/celandine_${version}_$1.deb"
  rm -rf "$root"
}

packages=$(go list -deps ./cmd/celandine | wc -l)
for architecture in amd64 arm64; do
  step "Building for $architecture" "1 min" "$packages" binary "$architecture"
  step "Packing for $architecture" "15 s" "" package "$architecture"
done
go run ./release/sbom "$out/celandine-$version-linux-amd64" web/package-lock.json >"$out/celandine-$version.cdx.json"
(cd "$out" && sha256sum -- * >SHA256SUMS)
ls -l "$out"
