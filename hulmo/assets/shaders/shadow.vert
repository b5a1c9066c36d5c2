#version 330 core
#include place.glsl
uniform mat4 shadow_matrix;
in vec3 in_position;

void main() {
    gl_Position = shadow_matrix * vec4(in_position + place, 1.0);
}
