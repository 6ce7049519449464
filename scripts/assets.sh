#!/usr/bin/env bash
# Builds the styles, scripts and fonts that are committed under web/ui/static
# from the pinned packages in web/ui/assets (npm install, not npm ci: the lock file
# leaves out the packages of other platforms).  With --check it only proves that
# what is committed is what would be built, with --lint that the scripts hold to their
# rules and types.
set -euo pipefail
cd "$(dirname "$0")/../web/ui/assets"
[ -d node_modules ] && [ node_modules -nt package-lock.json ] || { npm install --no-save --no-audit --no-fund --silent && touch node_modules; }
if [ "${1:-}" = --lint ]; then
  npx --no-install eslint answers.js arcs.js desk.js fill.js find.js frame.js leaving.js marks.js respond.js responses.js
  npx --no-install tsc -p .
  exit
fi
out=../static
if [ "${1:-}" = --check ]; then
  out=$(mktemp -d)
  trap 'rm -rf "$out"' EXIT
fi
npx --no-install @tailwindcss/cli --input lazo.css --output "$out/lazo.css" --minify >/dev/null 2>&1
bundle() { # NAME FILE…
  local name=$1
  shift
  { cat node_modules/htmx.org/dist/htmx.min.js; echo; cat "$@"; } >"$out/$name.js"
}
bundle respond fill.js respond.js
bundle desk fill.js answers.js arcs.js find.js leaving.js marks.js responses.js desk.js
cp frame.js "$out/frame.js"
sed -i '/^\/\/# sourceMappingURL=/d' "$out/respond.js" "$out/desk.js"
cp node_modules/@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2 "$out/atkinson-next.woff2"
cp node_modules/@fontsource-variable/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-wght-normal.woff2 "$out/atkinson-mono.woff2"
if [ "${1:-}" = --check ]; then
  for f in "$out"/*; do
    cmp "$f" "../static/$(basename "$f")" || { echo "web/ui/static is not current: run make assets" >&2; exit 1; }
  done
  cmp node_modules/axe-core/axe.min.js ../../e2e/testdata/axe.min.js
  echo "The committed styles, scripts and fonts are current."
else
  mkdir -p ../../e2e/testdata
  cp node_modules/axe-core/axe.min.js ../../e2e/testdata/axe.min.js
fi
