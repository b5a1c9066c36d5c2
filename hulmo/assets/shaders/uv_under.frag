#version 330 core
// What lies under the charts: an image, or counted squares; paler where the image is repeated.
uniform sampler2D image;
uniform int kind;
uniform float squares;
uniform vec3 ramp[5];
in vec2 uv;
out vec4 colour;

vec3 on_ramp(float share) {
    float at = clamp(share, 0.0, 1.0) * 4.0;
    int low = min(int(at), 3);
    return mix(ramp[low], ramp[low + 1], at - float(low));
}

void main() {
    vec3 shade = vec3(0.80, 0.78, 0.73);
    if (kind == 1) {
        vec2 cell = floor(uv * squares), within = fract(uv * squares);
        float row = mod(cell.y, squares) / squares, column = mod(cell.x, squares) / squares;
        shade = on_ramp(column) * mix(1.0, 0.45, row);
        if (mod(cell.x + cell.y, 2.0) > 0.5) shade = mix(shade, vec3(0.9, 0.88, 0.83), 0.55);
        if (within.x < 0.3 && within.y < 0.3 && within.x + within.y < 0.3) shade *= 0.4;
    } else if (kind == 2) {
        shade = texture(image, uv).rgb;
    }
    shade = mix(shade, vec3(0.84, 0.82, 0.77), 0.45);
    bool inside = uv.x >= 0.0 && uv.x <= 1.0 && uv.y >= 0.0 && uv.y <= 1.0;
    if (!inside) shade = mix(shade, vec3(0.88, 0.865, 0.825), 0.72);
    colour = vec4(shade, 1.0);
}
