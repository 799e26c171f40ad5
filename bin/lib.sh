# What bin/start and bin/test share: everything a fresh Debian machine needs, each step skipped when it is done already.

root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$root" || exit 1
export BUNDLE_GEMFILE="$root/Gemfile" LANG=C.UTF-8

say() { printf '\033[1m==> %s\033[0m\n' "$*"; }

# quietly COMMAND…: what it prints goes to a log, of which the end is shown where it fails.
quietly() {
  mkdir -p var/log
  "$@" >>var/log/setup.log 2>&1 && return
  tail -n 40 var/log/setup.log >&2
  echo "This failed: $*. All that was printed is in $root/var/log/setup.log." >&2
  return 1
}

# packages NAME…: installs the Debian packages that are missing.
packages() {
  local missing=()
  for name in "$@"; do
    dpkg-query -W -f='${Status}' "$name" 2>/dev/null | grep -q '^install ok installed' || missing+=("$name")
  done
  [ ${#missing[@]} -eq 0 ] && return
  say "Installing Debian packages: ${missing[*]}"
  quietly apt-get update -q
  DEBIAN_FRONTEND=noninteractive quietly apt-get install -y -q --no-install-recommends "${missing[@]}"
}

# when_changed STAMP FILES… -- COMMAND…: runs the command unless the files are as they were when it last succeeded.
when_changed() {
  local stamp="var/stamps/$1" files=()
  shift
  while [ "$1" != "--" ]; do files+=("$1"); shift; done
  shift
  [ "$(cat "$stamp" 2>/dev/null)" = "$(fingerprint "${files[@]}")" ] && return
  "$@"
  mkdir -p var/stamps
  fingerprint "${files[@]}" >"$stamp"
}

fingerprint() { find "$@" -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum; }

gems() {
  bundle check >/dev/null 2>&1 && return
  say "Installing gems"
  quietly bundle install
}

# Debian 12 has a Node.js that is too old for the front end's build; then a newer one comes from the package registry.
node_js() {
  local at="$root/var/node" machine
  node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit((a === 20 && b >= 19) || (a === 22 && b >= 12) || a > 22 ? 0 : 1)' && return
  machine=$(dpkg --print-architecture | sed s/amd64/x64/)
  if [ ! -x "$at/node_modules/node-linux-$machine/bin/node" ]; then
    say "Installing Node.js"
    mkdir -p "$at"
    quietly npm --prefix "$at" install --no-save --no-audit --no-fund --loglevel=error "node-linux-$machine@22.12.0" npm@10.9.2
  fi
  export PATH="$at/node_modules/node-linux-$machine/bin:$at/node_modules/.bin:$PATH"
}

# Processes read it instead of compiling again what has not changed since, which takes half of their start.
compiled() { quietly env BUNDLE_WITHOUT=test BOOTSNAP_CACHE_DIR="$root/vendor" bundle exec bootsnap precompile --gemfile core/lib server/lib; }

npm_packages() {
  say "Installing front-end packages"
  # Not `npm ci`: it refuses a lock file in which optional packages for other platforms are missing, and npm leaves
  # those out that it cannot see. The versions are the lock file's all the same.
  quietly npm --prefix web install --no-save --no-audit --no-fund --loglevel=error
}

front_end() {
  say "Building the front end"
  quietly npm --prefix web run --silent types
  quietly npm --prefix web run --silent build
}

setup() {
  set -euo pipefail
  packages ruby ruby-dev bundler build-essential nodejs ca-certificates mariadb-server libmariadb-dev libssl-dev supervisor
  command -v npm >/dev/null || packages npm
  node_js
  # Neither needs the other.
  gems &
  local gems=$!
  [ -d web/node_modules ] || rm -f var/stamps/npm
  when_changed npm web/package-lock.json -- npm_packages
  wait "$gems"
  [ -d vendor/bootsnap ] || rm -f var/stamps/compiled
  when_changed compiled Gemfile.lock core/lib server/lib -- compiled
  [ -f web/dist/index.html ] && [ -f web/dist/sender/estrel-sender.js ] && [ -f web/src/lib/api/schema.generated.d.ts ] || rm -f var/stamps/build
  when_changed build web/src web/sender web/public web/index.html web/vite.config.ts web/vite.sender.config.ts web/package-lock.json docs demo/samples core/lib/estrel/analyses -- front_end
}
