#!/usr/bin/env bash
# Builds what is released: one static binary with its version, and the notices of what it
# is made of, with their checksums.
#   release.sh VERSION     such as 0.8.0; into .run/release
set -euo pipefail
cd "$(dirname "$0")/.."
version=${1:?which version}
out=.run/release/lazo-$version
rm -rf "$out"
mkdir -p "$out"
for arch in amd64 arm64; do
  CGO_ENABLED=0 GOOS=linux GOARCH=$arch go build -trimpath -ldflags "-s -w -X main.version=$version" -o "$out/lazo-linux-$arch" ./cmd/lazo
done
cp NOTICES.md CHANGELOG.md deploy/lazo.service deploy/nginx.conf "$out/"
(cd "$out" && sha256sum -- * >SHA256SUMS)
ls -l "$out"
