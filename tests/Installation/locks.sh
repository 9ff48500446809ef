#!/usr/bin/env bash
# What keeps strangers out of an installation, tried on one of its own: rights of its files, the password of the database (also of one made before there was a password), HTTPS, and
# what is said of a network at the start. Run by bin/test.
set -uo pipefail
root=$(cd "$(dirname "$0")/../.." && pwd)
. "$root/bin/lib/install.sh"
. "$root/bin/lib/services.sh"
var=$(mktemp -d /tmp/emberstone-locks.XXXXXX)
finish() { trap - EXIT; stop_children; stop_postgres; rm -rf "$var"; }
trap finish EXIT
cd "$root" || exit 1
wrong=0
tried=0
# holds WHAT COMMAND...: the command must succeed; fails WHAT COMMAND...: it must not.
holds() { local what=$1; shift; tried=$((tried + 1)); "$@" > "$var/said" 2>&1 || { echo "✗ $what"; head -n 5 "$var/said"; wrong=$((wrong + 1)); }; }
fails() { local what=$1; shift; tried=$((tried + 1)); if "$@" > "$var/said" 2>&1; then echo "✗ $what"; wrong=$((wrong + 1)); fi; }
says() { local what=$1 words=$2; shift 2; tried=$((tried + 1)); "$@" > "$var/said" 2>&1; grep -q -- "$words" "$var/said" || { echo "✗ $what"; head -n 5 "$var/said"; wrong=$((wrong + 1)); }; }

# A database made when whoever has an account on this machine was trusted.
db=$(free_port)
data="$var/postgres"
chmod 755 "$var"; mkdir -p "$data"; [ $is_root = 0 ] || chown postgres "$data"; chmod 700 "$data"
as_postgres "$pg_bin/initdb" -D "$data" -U emberstone -E UTF8 --locale=C.UTF-8 -A trust > "$var/initdb.log" 2>&1 || { cat "$var/initdb.log"; exit 1; }
start_postgres "$db"
ask() { "$pg_bin/psql" -w -q -h 127.0.0.1 -p "$db" -U emberstone -d postgres -c 'select 1'; }
# The settings are read again within a moment.
for _ in $(seq 50); do PGPASSWORD='' ask > /dev/null 2>&1 || break; sleep 0.1; done
fails "a database of before lets in who has no password" env PGPASSWORD= "$pg_bin/psql" -w -h 127.0.0.1 -p "$db" -U emberstone -d postgres -c 'select 1'
fails "a database of before lets in a wrong password" env PGPASSWORD=guess "$pg_bin/psql" -w -h 127.0.0.1 -p "$db" -U emberstone -d postgres -c 'select 1'
holds "a database of before takes the password it was given" ask
stop_postgres
rm -rf "$data"

start_postgres "$db"
fails "a new database lets in who has no password" env PGPASSWORD= "$pg_bin/psql" -w -h 127.0.0.1 -p "$db" -U emberstone -d postgres -c 'select 1'
holds "a new database takes its password" ask

port=$(free_port)
export EMBERSTONE_ENV="$var" EMBERSTONE_STORAGE="$var/storage"
write_environment "$db" "https://127.0.0.1:$port"
php artisan migrate --force --no-interaction --quiet || exit 1
php -r '
  $key = openssl_pkey_new(["private_key_bits" => 2048]);
  $certificate = openssl_csr_sign(openssl_csr_new(["commonName" => "127.0.0.1"], $key), null, $key, 1);
  openssl_x509_export_to_file($certificate, "$argv[1]/certificate.pem");
  openssl_pkey_export_to_file($key, "$argv[1]/key.pem");' "$var" || exit 1
[ $is_root = 0 ] || chmod -R a+rX vendor app bootstrap core compat database public resources routes
start_web "$port" 127.0.0.1 "$var/certificate.pem" "$var/key.pem" 2> "$var/web.log"
for _ in $(seq 100); do curl -fsk -o /dev/null "https://127.0.0.1:$port/sign-in" && break; sleep 0.1; done

only_its_owner() { [ "$(stat -c %A "$1" | cut -c5-)" = ------ ]; }
for file in .env app.key db.password web/cache; do holds "others can read $file" only_its_owner "$var/$file"; done
if [ $is_root = 1 ]; then for file in .env app.key db.password web/cache/config.php; do fails "another user reads $file" runuser -u nobody -- cat "$var/$file"; done; fi

says "HTTPS does not answer with the page" '<form' curl -sk "https://127.0.0.1:$port/sign-in"
says "the session's cookie travels without HTTPS" '[Ss]et-[Cc]ookie: emberstone_session=.*secure' curl -skD - -o /dev/null "https://127.0.0.1:$port/sign-in"
says "a plain request is not sent on to HTTPS" "^Location: https://127.0.0.1:$port/sign-in" curl -sD - -o /dev/null "http://127.0.0.1:$port/sign-in"
fails "an old TLS is spoken" curl -sk --tls-max 1.1 -o /dev/null "https://127.0.0.1:$port/sign-in"

says "nothing is said of a network without HTTPS" 'in the clear' about_the_network 0.0.0.0 ''
fails "a network with HTTPS is warned of" test -n "$(about_the_network 0.0.0.0 certificate.pem)"
fails "one's own machine is warned of" test -n "$(about_the_network 127.0.0.1 '')"
holds "the known password is used on one's own machine" test "$(demo_password localhost)" = cider-press-1902
fails "the known password is used on a network" test "$(demo_password 0.0.0.0)" = cider-press-1902
fails "a certificate without its key is taken" bash bin/start --certificate "$var/certificate.pem"

[ $wrong = 0 ] && echo "$tried locks tried, all hold"
exit $((wrong > 0))
