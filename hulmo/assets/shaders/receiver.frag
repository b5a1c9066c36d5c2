#version 330 core
// Draws a mesh of this file as Hulmo does, without shadows. What is drawn: 0 colour without light, 1 lit,
// 2 normals (0.5 + 0.5 n), 3 roughness.
#ifndef DRAWN
#define DRAWN 1
#endif
#include constants.glsl
#include blend.glsl
#include shade.glsl
uniform vec3 eye;             // of the camera, in the node's space, metres
uniform float metres_per_uv;  // of the primitive's extras; 0 where there is none: everything is mapped by position
uniform bool tinted;          // whether the primitive has _TINT
in vec3 position;
in vec3 normal;
in vec2 uv;
in vec4 weights_0;
in vec4 weights_1;
in vec4 weights_2;
in vec4 weights_3;
in vec4 tint;
out vec4 result;

vec2 plane(vec3 p, int axis) {
    return axis == 1 ? p.xz : vec2(axis == 0 ? p.z : p.x, -p.y);
}

vec2 turned(vec2 v, int ground) {
    return vec2(TURN[ground].x * v.x - TURN[ground].y * v.y, TURN[ground].y * v.x + TURN[ground].x * v.y);
}

// One image at a place, broken up where the ground is; `mean` is what it is broken up about.
vec4 texel(int image, int ground, vec2 at, vec2 dx, vec2 dy, vec4 mean) {
    float level = level_of(dx, dy, image_size(image));
    if (BREAK_UP[ground] == 0) return image_at(image, at, level);
    vec3 weight;
    vec2 shift[3];
    pieces(at, weight, shift);
    vec4 away = vec4(0.0);
    for (int i = 0; i < 3; ++i) away += weight[i] * (image_at(image, at + shift[i], level) - mean);
    return joined(away, weight, mean);
}

// Colour and height, or (detail) the x and y of the normal map and roughness.
vec4 part_of(int ground, bool detail, vec2 at, vec2 dx, vec2 dy) {
    vec4 mean = vec4(MEAN_ALBEDO[ground], MEAN_HEIGHT[ground]);
    vec4 mean_detail = vec4(MEAN_NORMAL[ground], MEAN_ROUGHNESS[ground], 1.0);
    if (!detail) {
        vec3 albedo = ALBEDO_VALUE[ground];
        float height = HEIGHT_VALUE[ground];
        if (ALBEDO[ground] >= 0) albedo = texel(ALBEDO[ground], ground, at, dx, dy, mean).rgb;
        if (HEIGHT[ground] >= 0) height = texel(HEIGHT[ground], ground, at, dx, dy, mean.aaaa).r;
        return vec4(albedo, height);
    }
    vec2 slant = vec2(0.5);
    float rough = ROUGHNESS_VALUE[ground];
    if (NORMAL_MAP[ground] >= 0) slant = texel(NORMAL_MAP[ground], ground, at, dx, dy, mean_detail).xy;
    if (ROUGHNESS[ground] >= 0) rough = texel(ROUGHNESS[ground], ground, at, dx, dy, mean_detail.zzzz).r;
    return vec4(slant, rough, 1.0);
}

void main() {
    vec3 n = normalize(normal);
    if (!gl_FrontFacing) n = -n;
    vec3 dx = dFdx(position);
    vec3 dy = dFdy(position);
    vec2 by_uv = uv * metres_per_uv;
    vec2 uv_dx = dFdx(by_uv);
    vec2 uv_dy = dFdy(by_uv);
    vec3 axes = axis_weights(n);
    float weight[MOST_GROUNDS];
    float height[MOST_GROUNDS];
    float share[MOST_GROUNDS];
    vec3 albedo[MOST_GROUNDS];
    for (int i = 0; i < 4; ++i) {
        weight[i] = weights_0[i];
#if MOST_GROUNDS > 4
        weight[4 + i] = weights_1[i];
#endif
#if MOST_GROUNDS > 8
        weight[8 + i] = weights_2[i];
#endif
#if MOST_GROUNDS > 12
        weight[12 + i] = weights_3[i];
#endif
    }
    for (int k = 0; k < MOST_GROUNDS; ++k) {
        height[k] = 0.0;
        albedo[k] = vec3(0.0);
    }
    for (int k = 0; k < GROUNDS; ++k) {
        float s = 1.0 / TILE[k];
        vec4 found = vec4(0.0);
        if (BY_UV[k] == 1 && metres_per_uv > 0.0) {
            found = part_of(k, false, turned(by_uv, k) * s, turned(uv_dx, k) * s, turned(uv_dy, k) * s);
        } else {
            for (int axis = 0; axis < 3; ++axis)
                found += axes[axis] * part_of(k, false, turned(plane(position, axis), k) * s + AXIS_SHIFT[axis],
                    turned(plane(dx, axis), k) * s, turned(plane(dy, axis), k) * s);
        }
        height[k] = found.a;
        albedo[k] = adjusted(found.rgb * TINT[k], ADJUST[k].x, ADJUST[k].y, ADJUST[k].z, ADJUST[k].w);
        if (VARIATION[k].y > 0.0) albedo[k] *= varied(position, VARIATION[k].x, VARIATION[k].y);
    }
    ground_shares(weight, height, DEPTH, share);
    vec3 base = vec3(0.0);
    for (int k = 0; k < GROUNDS; ++k) base += share[k] * albedo[k];
    if (tinted) base *= 1.0 - tint.a + tint.rgb;
#if DRAWN == 0
    result = vec4(encoded(base), 1.0);
#else
    float flat_share = 0.0;
    for (int k = 0; k < GROUNDS; ++k) flat_share += share[k] * FLAT[k];
    vec3 face = normalize(cross(dx, dy));
    vec3 plain = normalize(mix(n, dot(face, n) < 0.0 ? -face : face, flat_share));
    vec3 push = vec3(0.0);
    float rough = 0.0;
    for (int k = 0; k < GROUNDS; ++k) {
        float s = 1.0 / TILE[k];
        if (BY_UV[k] == 1 && metres_per_uv > 0.0) {
            vec4 found = part_of(k, true, turned(by_uv, k) * s, turned(uv_dx, k) * s, turned(uv_dy, k) * s);
            vec2 slant = turned(found.xy * 2.0 - 1.0, k) * (share[k] * NORMAL_STRENGTH[k]);
            push += pushed_by_uv(n, dx, dy, uv_dx, uv_dy, slant);
            rough += share[k] * found.z;
            continue;
        }
        for (int axis = 0; axis < 3; ++axis) {
            vec4 found = part_of(k, true, turned(plane(position, axis), k) * s + AXIS_SHIFT[axis],
                turned(plane(dx, axis), k) * s, turned(plane(dy, axis), k) * s);
            vec2 slant = turned(found.xy * 2.0 - 1.0, k) * (axes[axis] * share[k] * NORMAL_STRENGTH[k]);
            push += pushed_along(axis, slant);
            rough += axes[axis] * share[k] * found.z;
        }
    }
    n = normalize(plain + push);
    rough = clamp(rough, 0.05, 1.0);
#if DRAWN == 2
    result = vec4(n * 0.5 + 0.5, 1.0);
#elif DRAWN == 3
    result = vec4(vec3(rough), 1.0);
#else
    vec3 light = shaded(normalize(eye - position), plain, n, base, rough, TOWARD_SUN, SUN_LIGHT, SKY_LIGHT, 1.0);
    result = vec4(encoded(toned(light * exp2(EXPOSURE))), 1.0);
#endif
#endif
}
