# Shared by ./start and ./test: system packages, npm packages, build. Each step does nothing when there is nothing to do.

say() { printf '%s\n' "$*" >&2; }

need_node() {
  command -v node >/dev/null 2>&1 || { say "Node.js is not installed. Variscen needs Node.js 20.19 or newer; install it and start again."; exit 1; }
  node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' || { say "Node.js $(node --version) is too old. Variscen needs 20.19 or newer."; exit 1; }
}

# need_packages package:file …   installs the Debian packages whose file (a glob) is missing
need_packages() {
  local missing=() entry
  for entry in "$@"; do compgen -G "${entry#*:}" >/dev/null || missing+=("${entry%%:*}"); done
  [ ${#missing[@]} -eq 0 ] && return 0
  command -v apt-get >/dev/null 2>&1 || { say "Missing: ${missing[*]}. This system has no apt-get, so install them by hand and start again."; exit 1; }
  local sudo=()
  if [ "$(id -u)" -ne 0 ]; then
    command -v sudo >/dev/null 2>&1 || { say "Missing: ${missing[*]}. Install them as root (apt-get install ${missing[*]}) and start again."; exit 1; }
    sudo=(sudo)
  fi
  say "Installing ${missing[*]} …"
  "${sudo[@]}" apt-get update -qq
  "${sudo[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

npm_packages() {
  local stamp=node_modules/.variscen-lock
  if ! cmp -s package-lock.json "$stamp" 2>/dev/null; then
    say "Installing npm packages …"
    npm ci --ignore-scripts --no-fund --no-audit --loglevel=error >&2
    cp package-lock.json "$stamp"
  fi
}

# Rebuilds when a source is newer than the last build.
build() {
  local stamp=node_modules/.variscen-built
  if [ ! -e "$stamp" ] || [ ! -e web/dist/index.html ] || [ -n "$(find core engine contract server cli web demo bench e2e scripts package.json tsconfig*.json -newer "$stamp" -type f -not -path '*/node_modules/*' -not -path '*/dist/*' -not -name '*.tsbuildinfo' -print -quit)" ]; then
    say "Building …"
    npm run --silent build >&2
    touch "$stamp"
  fi
}
