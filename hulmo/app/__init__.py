"""The window. It shows a project and issues commands; it does no arithmetic on meshes."""
