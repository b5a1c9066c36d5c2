#version 330 core
#include place.glsl
uniform mat4 shadow_matrix;
in vec3 in_position;
in vec4 in_east;
in vec4 in_up;
in vec4 in_south;

void main() {
    vec4 p = vec4(in_position, 1.0);
    vec3 position = vec3(dot(in_east, p), dot(in_up, p), dot(in_south, p));
    gl_Position = shadow_matrix * vec4(position + place, 1.0);
}
