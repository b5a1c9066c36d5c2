#version 330 core
uniform mat4 view_projection;
in vec3 in_position;
out vec3 position;

void main() {
    position = in_position;
    gl_Position = view_projection * vec4(in_position, 1.0);
    gl_Position.z -= 1.5e-4 * gl_Position.w;
    gl_PointSize = 5.0;
}
