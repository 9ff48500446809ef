# Installs what a fresh Debian 12 machine lacks. Sourced by bin/start, bin/test, bin/check and bin/bench.
# Needs $root (the project folder). Prints only what it does.

say() { printf '%s\n' "· $*"; }
fail() { printf '%s\n' "✗ $*" >&2; exit 1; }

# install_debian NAME...: installs those Debian packages that are not there yet; an ordinary user is told what to ask for.
install_debian() {
  local missing=() name
  for name in "$@"; do
    dpkg-query -W -f='${Status}' "$name" 2>/dev/null | grep -q 'install ok installed' || missing+=("$name")
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  [ "$(id -u)" = 0 ] || fail "these Debian packages are missing: ${missing[*]}. Install them as root (apt-get install ${missing[*]}) and start again."
  say "installing ${missing[*]}"
  # No package may start a service of its own: ours run from our own folder.
  local guard=/usr/sbin/policy-rc.d made_guard=0
  if [ ! -e $guard ]; then printf '#!/bin/sh\nexit 101\n' > $guard; chmod +x $guard; made_guard=1; fi
  # An interrupted package run leaves apt waiting for repair; both calls are harmless otherwise.
  (dpkg --configure -a && apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}") > "${TMPDIR:-/tmp}/emberstone-apt.log" 2>&1 \
    || { tail -n 20 "${TMPDIR:-/tmp}/emberstone-apt.log" >&2; [ $made_guard = 0 ] || rm -f $guard; fail "apt-get could not install ${missing[*]}."; }
  [ $made_guard = 0 ] || rm -f $guard
}

php_packages=(php8.2-cli php8.2-mbstring php8.2-xml php8.2-intl php8.2-pgsql php8.2-curl php8.2-zip php8.2-opcache)
server_packages=(postgresql nginx-light php8.2-fpm)

install_composer() {
  if [ ! -f "$root/vendor/autoload.php" ] || [ "$root/composer.json" -nt "$root/vendor/autoload.php" ] || [ "$root/core/composer.json" -nt "$root/vendor/autoload.php" ]; then
    say "installing Composer packages"
    (cd "$root" && COMPOSER_ALLOW_SUPERUSER=1 composer update --quiet --no-interaction --no-progress) || fail "composer could not install the PHP packages."
    touch "$root/vendor/autoload.php"
  fi
}

install_npm() {
  if [ ! -f "$root/node_modules/.package-lock.json" ] || [ "$root/package-lock.json" -nt "$root/node_modules/.package-lock.json" ]; then
    say "installing npm packages"
    (cd "$root" && { npm ci --silent --no-audit --no-fund || npm install --silent --no-audit --no-fund --no-save; }) || fail "npm could not install the front-end packages."
    touch "$root/node_modules/.package-lock.json"
  fi
}

# build_front_end: makes public/build anew where it is older than what it is made of.
build_front_end() {
  local manifest="$root/public/build/manifest.json" log
  if [ -f "$manifest" ] && [ -z "$(find "$root/resources" "$root/package-lock.json" "$root/vite.config.ts" -newer "$manifest" -print -quit)" ]; then return 0; fi
  install_npm
  say "building the front end"
  # A log of our own: one that another user left in /tmp could not be written to.
  log=$(mktemp)
  (cd "$root" && npm run --silent build > "$log" 2>&1) || { tail -n 30 "$log" >&2; fail "the front end could not be built."; }
  rm -f "$log"
}
