#version 330 core
// A picture stretched over what is drawn.
uniform sampler2D picture;
in vec2 at;
out vec4 result;

void main() {
    result = vec4(texture(picture, at).rgb, 1.0);
}
