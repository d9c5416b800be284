#!/bin/sh
# Make sure the tests have what Debian gives: Chromium to drive, poppler to read PDF, exiftool and exiv2 to read what
# is written for other programs; as root or through sudo. Chromium without a window is drawn in half the time of the
# whole browser, which will do where it is there already.
set -eu
packages=""
command -v chromium-headless-shell >/dev/null 2>&1 || command -v chromium >/dev/null 2>&1 ||
  command -v chromium-browser >/dev/null 2>&1 || packages="chromium-headless-shell"
command -v pdftoppm >/dev/null 2>&1 || packages="$packages poppler-utils"
command -v exiftool >/dev/null 2>&1 || packages="$packages libimage-exiftool-perl"
command -v exiv2 >/dev/null 2>&1 || packages="$packages exiv2"
[ -n "$packages" ] || exit 0
if [ "$(id -u)" = 0 ]; then
  as_root=""
elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then
  as_root="sudo"
else
  echo "The tests need$packages. Run this once, then make test again:" >&2
  echo "    sudo apt-get install -y --no-install-recommends $packages" >&2
  exit 1
fi
$as_root apt-get update -qq
$as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $packages >/dev/null
