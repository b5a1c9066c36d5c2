uniform int hatch;

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
