"""Imported once by a window's fork server, so that no worker loads anew what the readers of some formats want, such as the kernel
of solids."""

import gc

from gullyrise.core.reading.registry import endings, load_readers

load_readers(set(endings()))
gc.collect()
gc.freeze()
