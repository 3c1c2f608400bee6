#!/bin/sh
# Debian's Chromium for the browser tests; installed with apt where it is missing.
command -v chromium >/dev/null && exit 0
echo "glyptic: installing Debian's chromium for the browser tests"
if [ "$(id -u)" = 0 ]; then
  root=""
elif command -v sudo >/dev/null; then
  root=sudo
else
  echo "glyptic: as root, please: apt-get install --no-install-recommends chromium" >&2
  exit 1
fi
$root apt-get update -qq && DEBIAN_FRONTEND=noninteractive $root apt-get install -y -qq --no-install-recommends chromium >/dev/null
