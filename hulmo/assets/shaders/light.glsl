#include place.glsl
#include shade.glsl
uniform vec3 eye;
uniform vec3 toward_sun;
uniform vec3 sun_light;
uniform vec3 sky_light;
uniform mat4 shadow_matrix;
uniform sampler2DShadow shadow_map;
uniform vec2 shadow_step;
uniform int shadows;
uniform float lamp;
uniform float lamp_reach;
uniform int lamps;
uniform vec4 lamp_at[16];  // where lamps hang, and how far they reach
uniform vec3 lamp_light[16];

float sunlit(vec3 p, vec3 n) {
    if (shadows == 0) return 1.0;
    vec4 at = shadow_matrix * vec4(p + n * shadow_step.y, 1.0);
    vec3 where = at.xyz * 0.5 + 0.5;
    if (where.z > 1.0) return 1.0;
    float sum = 0.0;
    for (int y = -1; y <= 1; ++y)
        for (int x = -1; x <= 1; ++x)
            sum += texture(shadow_map, vec3(where.xy + vec2(x, y) * shadow_step.x, where.z));
    return sum / 9.0;
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
