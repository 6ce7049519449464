#!/usr/bin/env bash
# Tells how many presses the stories of docs/stories.md take: runs them in the browser and
# prints what it counted.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql chromium chromium-l10n poppler-utils
names=$(sed -n 's/^| .*`\(Test[A-Za-z]*\)`.*/\1/p' docs/stories.md | paste -sd'|')
address=$(bash scripts/postgres.sh start .run/stories fast)
trap "bash scripts/postgres.sh stop .run/stories" EXIT
LAZO_TEST_DATABASE_URL=$address go test ./web/e2e -count=1 -v -run "^($names)\$" |
  awk '/^=== RUN/ { name = $3 } /by hand:/ { sub(/\/.*/, "", name); print name ": " $(NF-3) " presses, " $(NF-1) " letters" } /^--- FAIL|^FAIL/'
