#!/usr/bin/env bash
# What can be told within a minute: that it is well written, that the core holds (with a fifth of
# the random cases), and the packages that changed since the last commit, or since the one named.
#   check.sh [REVISION]
set -euo pipefail
cd "$(dirname "$0")/.."
since=${1:-HEAD}
changed=$({ git diff --name-only "$since"; git ls-files -o --exclude-standard; } | sort -u)
test -z "$(gofmt -l .)" || { gofmt -l .; echo "gofmt these files"; exit 1; }
go run ./scripts/lint $(git ls-files -c -o --exclude-standard '*.go')
go run ./web/ui/tidy $(git ls-files -c -o --exclude-standard 'web/*.html')
# A file belongs to the nearest directory above it that holds a package.
packages=$(for file in $changed; do
  dir=$(dirname "$file")
  while [ "$dir" != . ] && ! compgen -G "$dir/*.go" >/dev/null; do dir=$(dirname "$dir"); done
  [ "$dir" = . ] || [ ! -d "$dir" ] || echo "./$dir"
done | sort -u | grep -v -e '^./core/' -e '^./web/e2e' -e '^./scripts/' -e '^./bench' || true)
go vet ./core/... $packages
export RAPID_SEED=${RAPID_SEED:-20261126}
if [ -n "$packages" ]; then
  bash scripts/need.sh postgresql
  LAZO_TEST_DATABASE_URL=$(bash scripts/postgres.sh start .run/test fast)
  export LAZO_TEST_DATABASE_URL
fi
go test -short ./core/... $packages
