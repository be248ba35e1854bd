"""Imported once by the fork server, so that every worker starts with the numeric stack at hand. Never Qt or VTK."""

import gc
import os

from gullyrise.workers.fencing.resources import end_with_parent
from gullyrise.workers.forks import PARENT

# Before what takes its time to load: a window that is killed meanwhile leaves nothing behind.
if (parent := int(os.environ.get(PARENT, "0"))) not in (0, os.getpid()):
    end_with_parent(parent)

import embreex.rtcore_scene
import fcl
import igl
import manifold3d
import meshoptimizer
import numpy
import scipy.sparse.csgraph
import scipy.spatial

import gullyrise.core.checks.registry
import gullyrise.core.picking.prepared
import gullyrise.core.report.intake
import gullyrise.core.report.outlines
import gullyrise.workers.cutting
import gullyrise.workers.jobs
import gullyrise.workers.measuring
import gullyrise.workers.placing
import gullyrise.workers.process
import gullyrise.workers.receiving
from gullyrise.core.reading.registry import load_readers
from gullyrise.workers.fencing import make_ready

# Found once here, not in each worker; what is loaded stays, and is not looked through for garbage.
load_readers(set())
gullyrise.core.checks.registry.checks()
make_ready()
gc.collect()
gc.freeze()

__all__ = ["embreex", "fcl", "gullyrise", "igl", "manifold3d", "meshoptimizer", "numpy", "scipy"]
