#!/usr/bin/env bash
# Starts the sample workspace; Ctrl-C stops all of it. The data stays under .run/demo.
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
if [ -z "${LAZO_LISTEN:-}" ]; then
  port=8080
  while (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null; do port=$((port + 1)); done
  export LAZO_LISTEN=127.0.0.1:$port
fi
trap : INT # the server hears it too, and ends by itself
bin/lazo serve --demo || true
