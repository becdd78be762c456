# Shared by ./run and ./check: installs what is missing of packages.txt, configures and builds a preset.
need_packages() {
  local missing=() package
  while read -r package; do
    [[ -z $package || $package == \#* ]] && continue
    dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' || missing+=("$package")
  done <packages.txt
  ((${#missing[@]} == 0)) && return
  echo "Missing packages: ${missing[*]}"
  local root=()
  if [[ $(id -u) != 0 ]]; then
    command -v sudo >/dev/null || { echo "Install them as root: apt-get install ${missing[*]}" >&2; exit 1; }
    root=(sudo)
  fi
  "${root[@]}" apt-get update -q
  "${root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "${missing[@]}"
}

# build PRESET [TARGET...]
build() {
  local preset=$1
  shift
  cmake --preset "$preset" >"build-$preset.log" 2>&1 || { cat "build-$preset.log"; rm -f "build-$preset.log"; exit 1; }
  rm -f "build-$preset.log"
  if (($# == 0)); then set -- all; fi
  cmake --build "build/$preset" --target "$@"
}
