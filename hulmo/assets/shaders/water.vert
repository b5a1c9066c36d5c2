#version 330 core
#include place.glsl
uniform mat4 view_projection;
in vec3 in_position;
in vec3 in_normal;
in vec2 in_known;
out vec3 at;
out vec3 upward;
out vec2 known;

void main() {
    at = in_position;
    upward = in_normal;
    known = in_known;
    gl_Position = view_projection * vec4(in_position + place, 1.0);
}
