#version 330 core
#include place.glsl
uniform mat4 view_projection;
in vec3 in_position;
invariant gl_Position;

void main() {
    gl_Position = view_projection * vec4(in_position + place, 1.0);
}
