#!/usr/bin/env bash
# What goes wrong on a machine, done to the application under test: fault.sh kill-workers | kill-one | restart-database. Its folder is EMBERSTONE_VAR.
set -euo pipefail
# The workers of this application and of no other, and the processes that they have started: they have our folder in their environment.
workers() {
  for process in /proc/[0-9]*; do
    # What starts them as another user has their name as well.
    if [ "$(cat "$process/comm" 2> /dev/null)" != runuser ] && grep -qz 'queue:work' "$process/cmdline" 2> /dev/null && grep -qzx "EMBERSTONE_ENV=$EMBERSTONE_VAR" "$process/environ" 2> /dev/null; then echo "${process#/proc/}"; fi
  done
}
case $1 in
  kill-workers) for one in $(workers); do kill -9 "$one" 2> /dev/null || true; done ;;
  kill-one) one=$(workers | shuf -n 1); [ -z "$one" ] || kill -9 "$one" 2> /dev/null || true ;;
  restart-database)
    pg=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -n 1)
    as=(); [ "$(id -u)" != 0 ] || as=(runuser -u postgres --)
    # As after a power cut: nothing is ended in order.
    "${as[@]}" "$pg/pg_ctl" -D "$EMBERSTONE_VAR/postgres" -w -m immediate restart -l "$EMBERSTONE_VAR/postgres/server.log" > /dev/null ;;
esac
