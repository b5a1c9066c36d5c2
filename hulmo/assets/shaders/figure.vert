#version 330 core
uniform mat4 view_projection;
uniform vec3 feet;
in vec3 in_position;
in vec3 in_normal;
out vec3 position;
out vec3 normal;

void main() {
    position = in_position + feet;
    normal = in_normal;
    gl_Position = view_projection * vec4(position, 1.0);
}
