#!/usr/bin/env bash
# Runs packages' tests over connections that pgbouncer shares by transaction, as many
# hosts offer a database:  shared.sh ./store/... ./notify/...
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/need.sh postgresql pgbouncer
LAZO_TEST_DATABASE_URL=$(bash scripts/postgres.sh start .run/test fast)
export LAZO_TEST_DATABASE_URL
rest=${LAZO_TEST_DATABASE_URL#postgres://} password=${rest#*:} port=${rest##*:}
password=${password%%@*} port=${port%%/*}
pooled=$((port + 1000))
while (exec 3<>"/dev/tcp/127.0.0.1/$pooled") 2>/dev/null; do pooled=$((pooled + 1)); done
dir=$(mktemp -d /var/tmp/lazo-shared-XXXXXX)
cat >"$dir/pgbouncer.ini" <<END
[databases]
* = host=127.0.0.1 port=$port user=lazo password=$password
[pgbouncer]
listen_addr = 127.0.0.1
listen_port = $pooled
unix_socket_dir =
auth_type = any
pool_mode = transaction
default_pool_size = 8
max_client_conn = 500
logfile = $dir/log
END
as=()
if [ "$(id -u)" = 0 ]; then
  chown -R postgres:postgres "$dir"
  as=(setpriv --reuid=postgres --regid=postgres --init-groups)
fi
(cd "$dir" && exec "${as[@]}" "$(command -v pgbouncer || echo /usr/sbin/pgbouncer)" -q pgbouncer.ini) &
pool=$!
trap 'kill $pool; rm -rf "$dir"' EXIT
for _ in $(seq 50); do (exec 3<>"/dev/tcp/127.0.0.1/$pooled") 2>/dev/null && break || sleep 0.1; done
LAZO_TEST_SHARED="127.0.0.1:$pooled" go test -count=1 -timeout 20m "$@"
