#include place.glsl
uniform vec4 section;
uniform int sectioned;

// A cut view: what lies beyond the plane is left out, and what shows of the inside of the solid is a plain hatched page.
bool cut_away(vec3 p) {
    return sectioned == 1 && dot(section.xyz, p + place) > section.w;
}

vec3 cap_colour() {
    float line = abs(fract((gl_FragCoord.x - gl_FragCoord.y) / 12.0) - 0.5) * 12.0;
    return mix(vec3(0.20, 0.17, 0.12), vec3(0.55, 0.50, 0.40), smoothstep(0.5, 1.5, line));
}
