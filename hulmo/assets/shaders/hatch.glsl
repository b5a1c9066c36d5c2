#ifndef FRONT
#define FRONT gl_FrontFacing
#endif
uniform int hatch;
uniform int backs;

// Back faces, where they are to be seen as such: a lattice of dots over what is drawn.
vec3 back_marked(vec3 colour) {
    if (backs == 0 || FRONT) return colour;
    vec2 cell = gl_FragCoord.xy / 7.0;
    cell.x += 0.5 * mod(floor(cell.y), 2.0);
    float dot_here = 1.0 - smoothstep(1.1, 1.9, 7.0 * length(fract(cell) - 0.5));
    float bright = dot(colour, vec3(0.3, 0.6, 0.1));
    return mix(colour, bright > 0.12 ? vec3(0.02, 0.03, 0.10) : vec3(0.45, 0.55, 0.75), 0.85 * dot_here);
}

// Guarded surface is hatched: lines across the screen, two ways where it is kept whole, one way where only in part.
vec3 hatched(vec3 colour, float guard) {
    if (hatch == 0 || guard < 0.04) return colour;
    vec2 p = gl_FragCoord.xy;
    float period = 9.0;
    float one = abs(fract((p.x + p.y) / period) - 0.5) * period;
    float line = 1.0 - smoothstep(0.4, 1.3, one);
    if (guard > 0.75) {
        float other = abs(fract((p.x - p.y) / period) - 0.5) * period;
        line = max(line, 1.0 - smoothstep(0.4, 1.3, other));
    }
    float bright = dot(colour, vec3(0.3, 0.6, 0.1));
    vec3 ink = bright > 0.16 ? vec3(0.01, 0.05, 0.06) : vec3(0.55, 0.62, 0.60);
    return mix(colour, ink, line * mix(0.25, 0.75, guard));
}
