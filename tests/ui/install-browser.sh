#!/bin/sh
# Chromium and ChromeDriver from Debian's packages, for the tests of the interface.
if [ "$(id -u)" = 0 ] && command -v apt-get > /dev/null; then
  apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium chromium-driver > /dev/null && exit 0
fi
echo "The tests of the interface need Chromium and ChromeDriver: sudo apt-get install chromium chromium-driver" >&2
exit 1
