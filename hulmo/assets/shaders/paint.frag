#version 330 core
#include hatch.glsl
#include section.glsl
#if LOOK_COARSE
in vec3 g_position;
in vec3 g_normal;
in float g_guard;
flat in float g_longest;
flat in float g_gap;
#define position g_position
#define normal g_normal
#define guard g_guard
#else
in vec3 position;
in vec3 normal;
in float guard;
#include weights.glsl
#endif
#if HANDED
in float hand;
#endif
uniform vec3 eye;
uniform vec3 ramp[5];
uniform vec3 key[MOST_GROUNDS];
uniform float density[MOST_GROUNDS];
uniform int measure;
uniform int grounds;
uniform int ground_in_hand;
uniform float value;
out vec4 colour;

vec3 on_ramp(float share) {
    float at = clamp(share, 0.0, 1.0) * 4.0;
    int low = min(int(at), 3);
    return mix(ramp[low], ramp[low + 1], at - float(low));
}

void main() {
    if (cut_away(position)) discard;
    if (sectioned == 1 && !gl_FrontFacing) {
        colour = vec4(cap_colour(), 1.0);
        return;
    }
    vec3 n = normalize(normal);
    vec3 shade = vec3(0.0);
#if LOOK_COARSE
    // a border that changes by more than a third within a triangle, on edges longer than the limit
    shade = g_gap < 0.34 || g_longest < value ? ramp[0] : on_ramp(0.35 + 0.65 * (g_longest - value) / (2.0 * value));
#else
    float weight[MOST_GROUNDS];
    weights_here(weight);
    int most = 0;
    int there = 0;
    for (int i = 0; i < grounds; ++i) {
        if (weight[i] > weight[most]) most = i;
        if (weight[i] > 0.004) ++there;
    }
    if (measure == 11) {
        float share = weight[ground_in_hand];
        shade = on_ramp(share);
        // lines at quarters
        float at = share * 4.0;
        float away = abs(fract(at - 0.5) - 0.5) / max(fwidth(at), 1e-6);
        if (share > 0.05 && share < 0.95) shade *= 1.0 - 0.35 * (1.0 - smoothstep(0.4, 1.2, away));
    } else if (measure == 12) {
        shade = key[most] * mix(0.55, 1.0, weight[most]);
    } else if (measure == 13) {
        shade = there <= int(value) ? ramp[0] : on_ramp(0.3 + 0.35 * (float(there) - value));
    } else if (measure == 15) {
#if HANDED
        shade = on_ramp(hand);
#endif
    } else if (measure == 16) {
        // a checker of so many metres, seen along the axis the surface faces most
        vec3 a = abs(n);
        vec2 p = a.y >= a.x && a.y >= a.z ? position.xz : (a.x >= a.z ? position.zy : position.xy);
        ivec2 cell = ivec2(floor(p / value));
        shade = ((cell.x + cell.y) & 1) == 0 ? ramp[1] : ramp[3];
        ivec2 tenth = ivec2(floor(p / (value * 0.1)));
        if (fwidth(p.x) + fwidth(p.y) < value * 0.08) shade *= ((tenth.x + tenth.y) & 1) == 0 ? 1.0 : 0.92;
    } else if (measure == 17) {
        float pixels = 0.0;
        for (int i = 0; i < grounds; ++i) pixels += weight[i] * density[i];
        // from a quarter of the wanted density to four times it
        shade = on_ramp(0.5 + 0.25 * log2(max(pixels, 1e-3) / value));
    }
#endif
    float facing = abs(dot(n, normalize(eye - position - place)));
    shade *= 0.62 + 0.38 * facing;
    if (!gl_FrontFacing) shade *= vec3(0.45, 0.5, 0.6);
    colour = vec4(hatched(shade, guard), 1.0);
}
