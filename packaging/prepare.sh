# Sourced by ./demo and ./check: installs what packages.txt names and is missing. Works as root and as a user with sudo.
say() { printf '%s  %s\n' "$(date +%H:%M:%S)" "$*"; }

# install_packages [KIND]: those of KIND too, which stand as "KIND: name" in the list
install_packages() {
  local list missing=() name sudo=
  list=$(grep -v -e '^#' -e ':' packaging/packages.txt)
  [ -z "${1:-}" ] || list="$list $(sed -n "s/^$1: //p" packaging/packages.txt)"
  for name in $list; do
    [ "$(dpkg-query -W -f='${db:Status-Status}' "$name" 2>/dev/null)" = installed ] || missing+=("$name")
  done
  if [ ${#missing[@]} -eq 0 ]; then
    say "packages: nothing to install"
    return
  fi
  if [ "$(id -u)" -ne 0 ]; then
    command -v sudo >/dev/null || { say "missing packages, and neither root nor sudo is available: ${missing[*]}"; exit 4; }
    sudo=sudo
  fi
  say "packages: installing ${#missing[@]}: ${missing[*]}"
  $sudo apt-get update -qq || say "packages: the package lists could not be refreshed; using the existing ones"
  $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

# configure_and_build PRESET [targets]: all of them if none is named
configure_and_build() {
  local preset=$1
  shift
  say "build ($preset): configuring"
  cmake --preset "$preset" >"build/$preset.configure.log" 2>&1 || { cat "build/$preset.configure.log"; exit 4; }
  say "build ($preset): compiling"
  cmake --build "build/$preset" ${1:+--target "$@"}
}

# A place for the running program's own needs where a bare machine has none.
runtime_folder() {
  if [ -z "${XDG_RUNTIME_DIR:-}" ] || [ ! -d "${XDG_RUNTIME_DIR:-}" ]; then
    XDG_RUNTIME_DIR=$(mktemp -d)
    chmod 700 "$XDG_RUNTIME_DIR"
    export XDG_RUNTIME_DIR
  fi
}
