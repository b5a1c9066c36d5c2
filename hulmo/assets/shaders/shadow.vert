#version 330 core
uniform mat4 shadow_matrix;
in vec3 in_position;

void main() {
    gl_Position = shadow_matrix * vec4(in_position, 1.0);
}
