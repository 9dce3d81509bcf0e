# What both ./start and ./check need. Sourced, with $here set to the root of the repository.

say() { printf '%s\n' "$*" >&2; }

# need_debian_packages PACKAGE PATH: install PACKAGE when no file stands at PATH; without root, say so and stop.
need_debian_packages() {
  [ -e "$2" ] && return
  if [ "$(id -u)" != 0 ]; then
    say "The Debian package $1 is missing. Install it (apt-get install $1) and start again."
    exit 1
  fi
  say "Installing $1 ..."
  apt-get update -qq >/dev/null && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$1" >/dev/null || {
    say "$1 could not be installed. Check the network and the package sources, then start again."
    exit 1
  }
}

# need_browser: Debian's Chromium as .venv/bin/chromium, without its own window where that is to be had: a page loads a fifth sooner.
need_browser() {
  local shell=/usr/bin/chromium-headless-shell
  if [ ! -e $shell ] && [ "$(id -u)" = 0 ]; then
    (need_debian_packages chromium-headless-shell $shell) || say "Taking the whole browser instead ..."
  fi
  [ -e $shell ] || { shell=/usr/bin/chromium; need_debian_packages chromium $shell; }
  ln -sf $shell "$here/.venv/bin/chromium"
}

# A module that is compiled once is not compiled again by each process that is started, whatever the shell says: a start takes half as long.
unset PYTHONDONTWRITEBYTECODE

# set_up_python LOCK: a .venv at the root from the hashed lock, remade only when the lock changed. Modules are compiled as they are used.
set_up_python() {
  local lock=$1 python sum stamp=$here/.venv/.made-from-$1
  sum=$(sha256sum "$here/$lock" "$here/pyproject.toml" | sha256sum | cut -d' ' -f1)
  [ "$(cat "$stamp" 2>/dev/null)" = "$sum" ] && return
  for python in python3.11 python3.12 python3.13 python3; do
    "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null && break
  done
  say "Setting up Python ($lock) ..."
  [ -x "$here/.venv/bin/python" ] || "$python" -m venv "$here/.venv" || {
    say "Python 3.11 with venv is missing. Install it (apt-get install python3 python3-venv) and start again."
    exit 1
  }
  "$here/.venv/bin/python" -m pip install -q --no-compile --disable-pip-version-check --require-hashes -r "$here/$lock" 2>&1 | grep -v "^WARNING: Location" >&2 || true
  "$here/.venv/bin/python" -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e "$here" 2>&1 | grep -v "^WARNING: Location" >&2 || true
  "$here/.venv/bin/python" -c "import copper_sieve.cli" || { say "Setting up Python failed, see above."; exit 1; }
  printf '%s' "$sum" > "$stamp"
}

# set_up_screen: node packages from the lock, and a build; each repeated only when what it is made from changed.
set_up_screen() {
  local lock sum modules=$here/web/node_modules/.made-from built=$here/web/dist/.made-from
  command -v npm >/dev/null || { say "Node.js 20.19 or newer with npm is missing. Install it and start again."; exit 1; }
  lock=$(sha256sum "$here/web/package-lock.json" | cut -d' ' -f1)
  sum=$(cd "$here/web" && find src ../docs/words.md index.html vite.config.ts tsconfig.json package-lock.json -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -d' ' -f1)
  [ "$(cat "$built" 2>/dev/null)" = "$sum" ] && [ "${1:-}" != with-tools ] && return
  if [ "$(cat "$modules" 2>/dev/null)" != "$lock" ]; then
    say "Installing the screen's packages ..."
    (cd "$here/web" && npm ci --silent) || { say "npm ci failed, see above."; exit 1; }
    printf '%s' "$lock" > "$modules"
  fi
  [ "$(cat "$built" 2>/dev/null)" = "$sum" ] && return
  say "Building the screen ..."
  (cd "$here/web" && npm run --silent build >/dev/null) || { say "Building the screen failed, see above."; exit 1; }
  printf '%s' "$sum" > "$built"
}
