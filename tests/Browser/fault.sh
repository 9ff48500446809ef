#!/usr/bin/env bash
# What goes wrong on a machine, done to the application under test: fault.sh kill-workers | restart-database. Its folder is EMBERSTONE_VAR.
set -euo pipefail
case $1 in
  kill-workers)
    for process in /proc/[0-9]*; do
      # A worker of this application and of no other: it has our folder in its environment.
      if grep -qz 'queue:work' "$process/cmdline" 2> /dev/null && grep -qzx "EMBERSTONE_ENV=$EMBERSTONE_VAR" "$process/environ" 2> /dev/null; then
        kill -9 "${process#/proc/}" 2> /dev/null || true
      fi
    done ;;
  restart-database)
    pg=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -n 1)
    as=(); [ "$(id -u)" != 0 ] || as=(runuser -u postgres --)
    # As after a power cut: nothing is ended in order.
    "${as[@]}" "$pg/pg_ctl" -D "$EMBERSTONE_VAR/postgres" -w -m immediate restart -l "$EMBERSTONE_VAR/postgres/server.log" > /dev/null ;;
esac
