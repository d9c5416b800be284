#!/bin/sh
# Make sure the browser tests have a Chromium: Debian's own, installed as root or through sudo.
set -eu
for browser in chromium chromium-browser; do
  command -v "$browser" >/dev/null 2>&1 && exit 0
done
packages="chromium"
if [ "$(id -u)" = 0 ]; then
  as_root=""
elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then
  as_root="sudo"
else
  echo "The browser tests need Chromium. Run this once, then make test again:" >&2
  echo "    sudo apt-get install -y --no-install-recommends $packages" >&2
  exit 1
fi
$as_root apt-get update -qq
$as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $packages >/dev/null
