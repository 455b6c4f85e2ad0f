# Sourced by ./demo and ./check: the Debian 12 packages that Heft is built and tested with.
heft_packages="g++ cmake ninja-build ccache pkg-config
  qt6-base-dev libqt6svg6 qt6-svg-dev qt6-qpa-plugins libsndfile1-dev libsamplerate0-dev librubberband-dev librtmidi-dev libasound2-dev libfftw3-dev libeigen3-dev
  libebur128-dev librtaudio-dev libexpected-dev libxxhash-dev libqm-dsp-dev libsqlitecpp-dev nlohmann-json3-dev libcli11-dev
  libsmf-dev libgtest-dev libgmock-dev libbenchmark-dev libaubio-dev fonts-inter python3 python3-fonttools universal-ctags xvfb xauth sox libsox-fmt-mp3 opus-tools jackd2 libjack-jackd2-dev"

install_missing() {
  local missing=() p
  for p in $heft_packages; do
    dpkg-query -W -f='${Status}' "$p" 2>/dev/null | grep -q 'install ok installed' || missing+=("$p")
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  echo "Installing missing packages: ${missing[*]}"
  local sudo=""
  [ "$(id -u)" -eq 0 ] || sudo="sudo"
  $sudo apt-get update -qq || { echo "apt-get update failed: is the network there?" >&2; return 1; }
  # jackd2 asks a question when it is installed; no is its own default.
  $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null ||
    { echo "The packages could not be installed; see the lines above." >&2; return 1; }
}

# heft_targets: what to build; without it everything.
build_preset() {
  cmake --preset "$@" >"build-$1.log" 2>&1 || { cat "build-$1.log" >&2; rm -f "build-$1.log"; return 1; }
  rm -f "build-$1.log"
  # shellcheck disable=SC2086  # names of targets, one word each
  cmake --build --preset "$1" ${heft_targets:+--target $heft_targets}
}
