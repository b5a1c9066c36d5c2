#version 330 core
uniform mat4 view_projection;
uniform mat4 model;
in vec3 in_position;
in vec3 in_normal;
out vec3 normal;

void main() {
    normal = mat3(model) * in_normal;
    gl_Position = view_projection * (model * vec4(in_position, 1.0));
}
