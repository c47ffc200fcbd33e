#!/usr/bin/env bash
# Opens every example in Chromium, Firefox and WebKit. The latter two draw under Xvfb with Mesa's software renderer; they are installed on
# machines with Debian's package manager, and engines that cannot be had are named.
set -euo pipefail
cd "$(dirname "$0")/.."
missing=0
for command in firefox-esr WebKitWebDriver xvfb-run; do command -v "$command" > /dev/null || missing=1; done
if [ "$missing" = 1 ]; then
  wanted=(firefox-esr webkit2gtk-driver xvfb xauth libgl1-mesa-dri)
  (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${wanted[@]}") > /dev/null ||
    echo "could not install ${wanted[*]}"
fi
if command -v xvfb-run > /dev/null; then
  LIBGL_ALWAYS_SOFTWARE=1 exec xvfb-run -a -s "-screen 0 1400x1000x24" npm run engines
else
  exec npm run engines
fi
