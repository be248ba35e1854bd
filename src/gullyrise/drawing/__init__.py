"""From a scene, a camera and cuts to a picture: all of VTK, and what is painted on pictures. Without widgets."""
