"""Imported once by the fork server, so that every worker starts with the numeric stack at hand. Never Qt or VTK."""

import embreex.rtcore_scene
import fcl
import igl
import manifold3d
import meshoptimizer
import numpy
import scipy.sparse.csgraph
import scipy.spatial

import gullyrise.core.checks.registry
import gullyrise.core.reading

__all__ = ["embreex", "fcl", "gullyrise", "igl", "manifold3d", "meshoptimizer", "numpy", "scipy"]
