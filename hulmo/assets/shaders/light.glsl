#include place.glsl
#include shade.glsl
uniform vec3 eye;
uniform vec3 toward_sun;
uniform vec3 sun_light;
uniform vec3 sky_light;
uniform mat4 shadow_matrix;
uniform mat4 near_matrix;
uniform sampler2DShadow shadow_map;
uniform sampler2DShadow near_map;  // finer, about what is looked at
uniform sampler2D shadow_plain;  // the same two as depths
uniform sampler2D near_plain;
uniform vec4 shadow_step;  // size of a texel, metres to lift a place by, metres across and along the light
uniform vec4 near_step;
uniform int near_there;
uniform float sun_size;  // metres that a shadow blurs over for each metre from what casts it
uniform int shadows;
uniform float lamp;
uniform float lamp_reach;
uniform int lamps;
uniform vec4 lamp_at[16];  // where lamps hang, and how far they reach
uniform vec3 lamp_light[16];

// Places spread evenly over a disc (Vogel, "A better way to construct the sunflower head", 1979).
const vec2 SPIRAL[8] = vec2[8](
    vec2(0.2500, 0.0000), vec2(-0.3193, 0.2925), vec2(0.0489, -0.5569), vec2(0.4024, 0.5249),
    vec2(-0.7385, -0.1306), vec2(0.6996, -0.4450), vec2(-0.2340, 0.8705), vec2(-0.4463, -0.8593)
);
const vec2 WIDE[14] = vec2[14](
    vec2(0.1890, 0.0000), vec2(-0.2414, 0.2211), vec2(0.0369, -0.4210), vec2(0.3042, 0.3968),
    vec2(-0.5583, -0.0988), vec2(0.5289, -0.3364), vec2(-0.1769, 0.6580), vec2(-0.3373, -0.6495),
    vec2(0.7319, 0.2673), vec2(-0.7614, 0.3143), vec2(0.3671, -0.7844), vec2(0.2712, 0.8648),
    vec2(-0.8175, -0.4738), vec2(0.9591, -0.2109)
);

float sunlit(vec3 p, vec3 n) {
    if (shadows == 0) return 1.0;
    vec3 close = (near_matrix * vec4(p + n * near_step.y, 1.0)).xyz;
    bool fine = near_there == 1 && max(abs(close.x), abs(close.y)) < 0.97;
    vec4 size = fine ? near_step : shadow_step;
    vec3 where = (fine ? close : (shadow_matrix * vec4(p + n * shadow_step.y, 1.0)).xyz) * 0.5 + 0.5;
    if (where.z > 1.0) return 1.0;
#if HASTY
    return fine ? texture(near_map, where) : texture(shadow_map, where);
#else
    // Soft by how far off it is what casts (Fernando, "Percentage-closer soft shadows", SIGGRAPH sketches 2005). The places that
    // are looked up do not depend on the picture, so nothing flickers when the camera moves.
    float seek = clamp(sun_size * 0.5 * size.w * where.z / size.z, 2.0 * size.x, 40.0 * size.x);
    float casts = 0.0;
    float depth = 0.0;
    for (int i = 0; i < 8; ++i) {
        vec2 to = where.xy + SPIRAL[i] * seek;
        float d = fine ? textureLod(near_plain, to, 0.0).r : textureLod(shadow_plain, to, 0.0).r;
        if (d < where.z) {
            casts += 1.0;
            depth += d;
        }
    }
    if (casts == 0.0) return 1.0;
    float off = (where.z - depth / casts) * size.w;
    float radius = clamp(0.5 * sun_size * off / size.z, 1.3 * size.x, 40.0 * size.x);
    // a wide look-up must not find the ground it stands on
    float lift = max(radius * size.z - 2.0 * size.x * size.z, 0.0) * 0.6;
    if (fine) where = (near_matrix * vec4(p + n * (near_step.y + lift), 1.0)).xyz * 0.5 + 0.5;
    else where = (shadow_matrix * vec4(p + n * (shadow_step.y + lift), 1.0)).xyz * 0.5 + 0.5;
    float sum = 0.0;
    for (int i = 0; i < 14; ++i) {
        vec3 to = vec3(where.xy + WIDE[i] * radius, where.z);
        sum += fine ? texture(near_map, to) : texture(shadow_map, to);
    }
    return sum / 14.0;
#endif
}

vec3 lit(vec3 p, vec3 plain, vec3 n, vec3 albedo, float rough) {
    p += place;
    vec3 v = normalize(eye - p);
    float shade = dot(n, toward_sun) > 0.0 && dot(plain, toward_sun) > -0.2 ? sunlit(p, plain) : 1.0;
    vec3 colour = shaded(v, plain, n, albedo, rough, toward_sun, sun_light, sky_light, shade);
    if (lamp > 0.0) {
        // a lamp at the eye: light falls off over the distance it reaches
        float away = distance(eye, p) / lamp_reach;
        colour += albedo * lamp * max(dot(n, v), 0.0) / (1.0 + away * away);
    }
    for (int i = 0; i < lamps; ++i) {
        vec3 way = lamp_at[i].xyz - p;
        float away = max(length(way), 0.05);
        // falls off with the square of the distance, and ends at the reach (as KHR_lights_punctual says)
        float ends = clamp(1.0 - pow(away / lamp_at[i].w, 4.0), 0.0, 1.0);
        colour += albedo * 0.31830989 * lamp_light[i] * (max(dot(n, way / away), 0.0) * ends / (away * away));
    }
    return colour;
}
