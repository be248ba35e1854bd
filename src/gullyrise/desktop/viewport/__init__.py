"""The 3-D widget: camera, frames, picking, overlays. The only room that imports VTK."""
