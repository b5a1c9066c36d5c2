#version 330 core
uniform vec4 shades[4];  // plain, chosen, mirrored, both
flat in int state;
out vec4 colour;

void main() {
    colour = shades[state];
}
