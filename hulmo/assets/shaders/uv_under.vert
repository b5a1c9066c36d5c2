#version 330 core
uniform vec4 view;
in vec2 in_uv;
out vec2 uv;

void main() {
    uv = in_uv;
    gl_Position = vec4(in_uv * view.xy + view.zw, 0.0, 1.0);
}
