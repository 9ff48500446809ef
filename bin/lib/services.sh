# PostgreSQL, nginx, php-fpm and workers from a folder of our own. Sourced after install.sh. Needs $root and $var.

pg_bin=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1)
[ "$(id -u)" = 0 ] && is_root=1 || is_root=0
children=()

as_postgres() { if [ $is_root = 1 ]; then runuser -u postgres -- "$@"; else "$@"; fi; }

free_port() { php -r '$s = stream_socket_server("tcp://127.0.0.1:0"); echo substr(strrchr(stream_socket_get_name($s, false), ":"), 1);'; }

# start_postgres PORT: starts the server on loopback, making its data directory the first time. Whoever else has an account on this machine needs the password, too.
start_postgres() {
  local data="$var/postgres" port=$1 fresh=0
  mkdir -p "$var"; chmod 755 "$var"
  if [ ! -f "$var/db.password" ]; then (umask 077; php -r 'echo bin2hex(random_bytes(24));' > "$var/db.password"); [ $is_root = 0 ] || chown postgres "$var/db.password"; fi
  PGPASSWORD=$(cat "$var/db.password"); export PGPASSWORD
  if [ ! -f "$data/PG_VERSION" ]; then
    fresh=1
    mkdir -p "$data"; [ $is_root = 1 ] && chown postgres "$data"; chmod 700 "$data"
    as_postgres "$pg_bin/initdb" -D "$data" -U emberstone -E UTF8 --locale=C.UTF-8 -A scram-sha-256 --pwfile="$var/db.password" > "$var/initdb.log" 2>&1 || { cat "$var/initdb.log" >&2; fail "PostgreSQL could not make its data directory."; }
  fi
  # The server runs as another user: it must be able to pass through the folders above.
  if [ $is_root = 1 ] && ! as_postgres test -x "$var"; then fail "the user postgres cannot reach $var; move the project to a folder others may enter."; fi
  as_postgres "$pg_bin/pg_ctl" -D "$data" -w -t 60 -l "$data/server.log" -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c shared_buffers=256MB -c max_wal_size=2GB" start > "$var/pg_ctl.log" 2>&1 \
    || { cat "$var/pg_ctl.log" >&2; as_postgres tail -n 20 "$data/server.log" >&2; fail "PostgreSQL did not start."; }
  # Made before there was a password.
  if as_postgres grep -qE '^[^#].*trust$' "$data/pg_hba.conf"; then
    "$pg_bin/psql" -q -h 127.0.0.1 -p "$port" -U emberstone -d postgres -c "alter user emberstone password '$PGPASSWORD'" && as_postgres sed -i -E '/^[^#]/s/trust$/scram-sha-256/' "$data/pg_hba.conf" && as_postgres "$pg_bin/pg_ctl" -D "$data" reload > /dev/null
  fi
  [ $fresh = 0 ] || "$pg_bin/createdb" -h 127.0.0.1 -p "$port" -U emberstone emberstone
}

stop_postgres() { [ -f "$var/postgres/postmaster.pid" ] && as_postgres "$pg_bin/pg_ctl" -D "$var/postgres" -m fast -w stop > /dev/null 2>&1; return 0; }

is_loopback() { case $1 in 127.*|localhost|::1) true ;; *) false ;; esac; }

# demo_password HOST: whom only this machine can reach may have a password that everybody knows; on a network the demo user gets one of its own.
demo_password() { if is_loopback "$1"; then echo cider-press-1902; else php -r 'echo bin2hex(random_bytes(8));'; fi; }

# about_the_network HOST CERTIFICATE: what whoever starts it must know when others can reach it.
about_the_network() {
  if ! is_loopback "$1" && [ -z "$2" ]; then say "others on the network can reach this: give --certificate and --key, or put a proxy with HTTPS before it, or passwords and scans travel in the clear"; fi
}

# write_environment PORT_DB URL: the settings of Laravel, in var/.env, which the one alone may read as whom the servers run.
write_environment() {
  (umask 077; [ -f "$var/app.key" ] || php -r 'echo "base64:".base64_encode(random_bytes(32));' > "$var/app.key")
  rm -f "$var/.env"
  (umask 077; cat > "$var/.env" <<ENV
APP_NAME=Emberstone
APP_ENV=${APP_ENV:-production}
APP_KEY=$(cat "$var/app.key")
APP_DEBUG=false
APP_URL=$2
DB_CONNECTION=pgsql
DB_HOST=127.0.0.1
DB_PORT=$1
DB_DATABASE=emberstone
DB_USERNAME=emberstone
DB_PASSWORD=$PGPASSWORD
DB_QUEUE_RETRY_AFTER=7300
SESSION_DRIVER=database
SESSION_COOKIE=emberstone_session
SESSION_SECURE_COOKIE=$(case $2 in https:*) echo true ;; *) echo false ;; esac)
CACHE_STORE=database
QUEUE_CONNECTION=database
LOG_CHANNEL=single
BCRYPT_ROUNDS=10
ENV
  )
  chmod 600 "$var/app.key"
  [ $is_root = 0 ] || chown www-data "$var/.env"
  mkdir -p "$var/storage/"{framework/views,framework/cache,logs,blobs,uploads,deliveries,app}
}

# start_web PORT HOST [CERTIFICATE KEY]: nginx and php-fpm in front of public/, with HTTPS where there is a certificate.
start_web() {
  local web="$var/web" port=$1 host=$2 fpm user_lines="" tls="" tls_lines=""
  if [ -n "${3:-}" ]; then tls=" ssl"; tls_lines="ssl_certificate $3; ssl_certificate_key $4; ssl_protocols TLSv1.2 TLSv1.3; error_page 497 =301 https://\$http_host\$request_uri;"; fi
  fpm=$(command -v php-fpm8.2 || echo /usr/sbin/php-fpm8.2)
  mkdir -p "$web"/{body,proxy,fastcgi,uwsgi,scgi}
  if [ $is_root = 1 ]; then
    user_lines=$'user = www-data\ngroup = www-data\nlisten.owner = www-data\nlisten.group = www-data'
    chown -R www-data "$web"/{body,proxy,fastcgi,uwsgi,scgi}
    chown -R www-data:www-data "$var/storage"
  fi
  # Routes and settings read once instead of with every request; a folder of its own, for tests run the same code with other settings.
  export APP_CONFIG_CACHE="$web/cache/config.php" APP_ROUTES_CACHE="$web/cache/routes.php" APP_EVENTS_CACHE="$web/cache/events.php"
  mkdir -p "$web/cache"; chmod 700 "$web/cache"
  EMBERSTONE_ENV="$var" EMBERSTONE_STORAGE="$var/storage" php "$root/artisan" optimize --except=views --quiet || fail "the settings could not be read."
  [ $is_root = 0 ] || chown -R www-data "$web/cache"
  cat > "$web/fpm.conf" <<FPM
[global]
error_log = $web/fpm.log
daemonize = no
[www]
$user_lines
listen = $web/fpm.sock
pm = dynamic
pm.max_children = 12
pm.start_servers = 3
pm.min_spare_servers = 2
pm.max_spare_servers = 6
clear_env = no
catch_workers_output = yes
php_admin_value[memory_limit] = 1G
php_admin_value[upload_max_filesize] = 128M
php_admin_value[post_max_size] = 128M
php_admin_value[opcache.jit] = disable
php_admin_value[opcache.validate_timestamps] = ${EMBERSTONE_VALIDATE:-1}
FPM
  cat > "$web/nginx.conf" <<NGINX
$([ $is_root = 1 ] && echo "user www-data;")
worker_processes 2;
daemon off;
pid $web/nginx.pid;
error_log $web/nginx.log warn;
events { worker_connections 512; }
http {
  include /etc/nginx/mime.types;
  access_log off;
  sendfile on;
  client_max_body_size 64k;
  client_body_temp_path $web/body; proxy_temp_path $web/proxy; fastcgi_temp_path $web/fastcgi; uwsgi_temp_path $web/uwsgi; scgi_temp_path $web/scgi;
  gzip on; gzip_types text/css application/javascript application/json image/svg+xml;
  server {
    listen $host:$port$tls;
    $tls_lines
    root $root/public;
    index index.php;
    location /build/ { expires 1y; add_header Cache-Control "public, immutable"; }
    location /blobs/ { internal; alias $var/storage/blobs/; }
    location / { try_files \$uri /index.php?\$query_string; }
    # JSON of those who have signed in may hold a selection; frames of a scanner are as large as uploads (BoundedInput has the same bounds).
    location /api/ { client_max_body_size 16m; try_files \$uri /index.php?\$query_string; }
    location /bridge/ { client_max_body_size 128m; try_files \$uri /index.php?\$query_string; }
    error_page 413 = @too-large;
    # What nginx itself cannot do, as storing a body on a full disk; the application's own answers pass as they are.
    error_page 500 502 503 504 507 = @cannot;
    location @cannot { default_type application/json; return 503 '{"message":"The server could not take that: its disk may be full, or it is just starting. Nothing was changed; try again in a minute, or tell whoever looks after this installation."}'; }
    location @too-large { default_type application/json; return 413 '{"message":"That is more than is taken here at once. Select less, or send files as uploads."}'; }
    # What is uploaded is handed over as a file instead of being poured through FastCGI.
    location ~ ^/api/projects/[^/]+/uploads/[^/]+\$ {
      client_max_body_size 128m;
      client_body_in_file_only clean; client_body_buffer_size 1m;
      include /etc/nginx/fastcgi_params;
      fastcgi_param SCRIPT_FILENAME $root/public/index.php;
      fastcgi_param SCRIPT_NAME /index.php;
      fastcgi_param HTTP_HOST \$host:$port;
      fastcgi_param EMBERSTONE_ACCEL 1;
      fastcgi_param EMBERSTONE_BODY \$request_body_file;
      fastcgi_param CONTENT_LENGTH 0;
      fastcgi_pass_request_body off;
      fastcgi_pass unix:$web/fpm.sock;
    }
    location ~ ^/index\\.php\$ {
      # Reached from the locations above alone, which have looked at the size.
      internal;
      client_max_body_size 128m;
      include /etc/nginx/fastcgi_params;
      fastcgi_param SCRIPT_FILENAME $root/public/index.php;
      # Debian passes the host without its port; redirects are made from it. The last one given counts.
      fastcgi_param HTTP_HOST \$host:$port;
      fastcgi_param EMBERSTONE_ACCEL 1;
      fastcgi_pass unix:$web/fpm.sock;
      fastcgi_read_timeout 120s;
    }
  }
}
NGINX
  EMBERSTONE_ACCEL=1 EMBERSTONE_ENV="$var" EMBERSTONE_STORAGE="$var/storage" "$fpm" -F -y "$web/fpm.conf" $([ $is_root = 1 ] && echo -R) & children+=($!)
  "$(command -v nginx || echo /usr/sbin/nginx)" -e "$web/nginx.log" -c "$web/nginx.conf" & children+=($!)
}

worker_php=("$root/core/bin/php-jit")

# start_workers COUNT: for steps, one more for short steps alone, and two for live captures, each restarted when it ends; and beside them what is due by the clock (the sweep).
start_workers() {
  local as=()
  [ $is_root = 1 ] && as=(runuser -u www-data --)
  export EMBERSTONE_ENV="$var" EMBERSTONE_STORAGE="$var/storage"
  ( trap 'kill $scheduler 2>/dev/null; exit 0' TERM INT
    while true; do "${as[@]}" php "$root/artisan" schedule:work --quiet > /dev/null & scheduler=$!; wait $scheduler || sleep 5; done ) & children+=($!)
  local queue
  for queue in $(yes short,default | head -n "$1") short captures captures; do
    ( trap 'kill $worker 2>/dev/null; exit 0' TERM INT
      while true; do
        "${as[@]}" "${worker_php[@]}" "$root/artisan" queue:work database --queue=$queue --sleep=0.2 --timeout=0 --tries=0 --max-time=3600 --quiet & worker=$!
        wait $worker || sleep 0.5
      done ) & children+=($!)
  done
}

stop_children() { local pid; for pid in "${children[@]}"; do kill "$pid" 2>/dev/null; done; wait "${children[@]}" 2>/dev/null; children=(); }
