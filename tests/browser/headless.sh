#!/bin/sh
# Chromium's build without windows opens no page by itself, and the driver waits for one.
exec chromium-headless-shell "$@" about:blank
