#version 330 core
#include hatch.glsl
#include section.glsl
#if LOOK_STRETCH
in vec3 g_position;
in vec3 g_normal;
in float g_guard;
flat in float g_longest;
#define position g_position
#define normal g_normal
#define guard g_guard
#else
in vec3 position;
in vec3 normal;
in float guard;
#endif
#if CURVED
in float curve;
#endif
#if LOOK_VIEWS
uniform sampler2D figures;  // of every triangle: pixels; -1 never seen, -2 not known
uniform int first_triangle;
uniform vec3 unseen;
#endif
uniform vec3 eye;
uniform vec3 ramp[5];
uniform int measure;
uniform float value;
uniform float grain;
uniform vec2 heights;  // of the whole scene, from the origin of the body
uniform float lift;  // of that origin above a line of the map
#include down.glsl
out vec4 colour;

vec3 on_ramp(float share) {
    float at = clamp(share, 0.0, 1.0) * 4.0;
    int low = min(int(at), 3);
    return mix(ramp[low], ramp[low + 1], at - float(low));
}

// How much of a line that is `width` pixels wide covers a pixel where `at` passes a whole number.
float line_at(float at, float width) {
    float away = abs(fract(at - 0.5) - 0.5) / max(fwidth(at), 1e-6);
    return 1.0 - smoothstep(width - 0.6, width + 0.6, away);
}

void main() {
    if (cut_away(position)) discard;
    if (sectioned == 1 && !gl_FrontFacing) {
        colour = vec4(cap_colour(), 1.0);
        return;
    }
    vec3 n = normalize(normal);
    vec3 shade = vec3(0.0);
    if (measure == 1) {
        float high = height_of(position);
        shade = on_ramp((high - heights.x) / max(heights.y - heights.x, 1e-6));
        float at = (high + lift) / value;
        // where lines would run into each other they are left out
        float room = 1.0 - smoothstep(0.25, 0.6, fwidth(at));
        shade *= 1.0 - room * 0.45 * line_at(at, 0.5);
        float room5 = 1.0 - smoothstep(0.25, 0.6, fwidth(at / 5.0));
        shade *= 1.0 - room5 * 0.55 * line_at(at / 5.0, 0.9);
    } else if (measure == 2) {
        float degrees_of = degrees(acos(clamp(dot(n, up_of(position)), -1.0, 1.0)));
        shade = on_ramp(degrees_of / 120.0);
        float away = abs(degrees_of - value) / max(fwidth(degrees_of), 1e-4);
        shade = mix(shade, vec3(0.02, 0.02, 0.02), 0.8 * (1.0 - smoothstep(0.6, 1.6, away)));
    }
#if CURVED
    else if (measure == 3) {
        shade = on_ramp(0.5 + 0.5 * curve * value);
    }
#endif
#if LOOK_STRETCH
    else if (measure == 4) {
        float times = g_longest / grain;
        shade = times < value ? ramp[0] : on_ramp(0.35 + 0.65 * (times - value) / (2.0 * value));
    }
#endif
#if LOOK_VIEWS
    else if (measure == 5) {
        int width = textureSize(figures, 0).x;
        int at = first_triangle + gl_PrimitiveID;
        float pixels = texelFetch(figures, ivec2(at % width, at / width), 0).r;
        shade = pixels < -1.5 ? vec3(0.62) : pixels < 0.0 ? unseen : on_ramp(0.5 + log2(max(pixels, 1e-6) / value) * 0.125);
    }
#endif
    // a little light from the eye, so that the shape stays readable
    float facing = abs(dot(n, normalize(eye - position - place)));
    shade *= 0.62 + 0.38 * facing;
    if (!gl_FrontFacing) shade *= vec3(0.45, 0.5, 0.6);
    colour = vec4(hatched(shade, guard), 1.0);
}
