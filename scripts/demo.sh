#!/usr/bin/env bash
# Starts the sample workspace; Ctrl-C stops all of it. The data stays under .run/demo.
#   demo.sh reset  lays it out afresh
#   demo.sh dev    builds and starts it again whenever a file is saved
set -euo pipefail
cd "$(dirname "$0")/.."
if [ "${1:-}" = reset ]; then
  if [ -d .run/demo ]; then
    bash scripts/postgres.sh stop .run/demo
    rm -rf .run/demo "/var/tmp/lazo-$(printf %s "$PWD/.run/demo" | cksum | cut -d' ' -f1)"
  fi
fi
echo "Building …"
go build -o bin/lazo ./cmd/lazo
if [ -z "${LAZO_DATABASE_URL:-}" ]; then
  bash scripts/need.sh postgresql
  echo "Starting PostgreSQL …"
  LAZO_DATABASE_URL=$(bash scripts/postgres.sh start .run/demo)
  export LAZO_DATABASE_URL
  trap 'bash scripts/postgres.sh stop .run/demo' EXIT
fi
free() { # PORT: this one, or the next that nobody listens at
  local port=$1
  while (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null; do port=$((port + 1)); done
  echo "$port"
}
if [ -z "${LAZO_LISTEN:-}" ]; then
  LAZO_LISTEN=127.0.0.1:$(free 8080)
  export LAZO_LISTEN
fi
trap : INT # the servers hear it too, and end by themselves
if [ -z "${LAZO_SMTP_URL:-}" ]; then
  smtp=127.0.0.1:$(free 2525)
  bin/lazo postbox --smtp "$smtp" --web "127.0.0.1:$(free 8025)" &
  postbox=$!
  export LAZO_SMTP_URL="smtp://$smtp?tls=none" LAZO_MAIL_FROM="${LAZO_MAIL_FROM:-office@pedralta.example}"
fi
# The sample hook tells this program, and both know this secret.
# Another demo on this machine has the usual port; where one was laid out before stays so.
told=.run/demo/receiver
mkdir -p .run/demo
[ -s "$told" ] || free 8026 >"$told"
receives=127.0.0.1:$(free "$(cat "$told")")
export LAZO_DEMO_HOOK="http://$receives/crane"
bin/lazo receiver --web "$receives" --secret whsec_cGVkcmFsdGEgbGFrZSByZWdhdHRhISBzYW1wbGU= &
receiver=$!
export LAZO_HOOK_NETWORKS="${LAZO_HOOK_NETWORKS:-127.0.0.1/32}"
if [ "${1:-}" = dev ]; then
  go build -o bin/dev ./scripts/dev
  LAZO_LOG_LEVEL="${LAZO_LOG_LEVEL:-warn}" bin/dev bin/lazo serve --demo || true
else
  bin/lazo serve --demo || true
fi
kill "$receiver" 2>/dev/null || true
[ -z "${postbox:-}" ] || kill "$postbox" 2>/dev/null || true
