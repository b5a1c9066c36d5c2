#include place.glsl
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

float sunlit(vec3 p, vec3 n) {
    if (shadows == 0) return 1.0;
    vec4 at = shadow_matrix * vec4(p + n * shadow_step.y, 1.0);
    vec3 where = at.xyz * 0.5 + 0.5;
    if (where.z > 1.0) return 1.0;
#if QUICK
    return texture(shadow_map, vec3(where.xy, where.z));
#else
    float sum = 0.0;
    for (int y = -1; y <= 1; ++y)
        for (int x = -1; x <= 1; ++x)
            sum += texture(shadow_map, vec3(where.xy + vec2(x, y) * shadow_step.x, where.z));
    return sum / 9.0;
#endif
}

// Sky light on a surface: bright above, light thrown back by the ground below.
vec3 sky_on(vec3 n) {
    float up = n.y * 0.5 + 0.5;
    return sky_light * mix(vec3(0.20, 0.185, 0.16), vec3(0.50, 0.58, 0.70), up);
}

// Lambert diffuse and a GGX lobe (Walter et al. 2007, with Schlick's Fresnel and Smith's joint visibility).
vec3 lit(vec3 p, vec3 flat_normal, vec3 n, vec3 albedo, float rough) {
    p += place;
    vec3 v = normalize(eye - p);
    float nl = max(dot(n, toward_sun), 0.0);
    float nv = max(dot(n, v), 1e-3);
    vec3 ambient = sky_on(n);
    vec3 colour = albedo * ambient;
    float f = pow(1.0 - nv, 5.0);
    colour += sky_on(reflect(-v, n)) * (0.04 + 0.96 * f * (1.0 - rough)) * (1.0 - rough) * 0.6;
    if (nl > 0.0 && dot(flat_normal, toward_sun) > -0.2) {
        float shade = sunlit(p, flat_normal);
        vec3 h = normalize(v + toward_sun);
        float nh = max(dot(n, h), 0.0);
        float a = max(rough * rough, 0.02);
        float a2 = a * a;
        float d = nh * nh * (a2 - 1.0) + 1.0;
        float lobe = a2 / (3.14159265 * d * d);
        float seen = 0.5 / (nl * sqrt(nv * nv * (1.0 - a2) + a2) + nv * sqrt(nl * nl * (1.0 - a2) + a2));
        float fresnel = 0.04 + 0.96 * pow(1.0 - max(dot(v, h), 0.0), 5.0);
        colour += sun_light * nl * shade * (albedo * 0.31830989 * (1.0 - fresnel) + vec3(lobe * seen * fresnel));
    }
    if (lamp > 0.0) {
        // a lamp at the eye: light falls off over the distance it reaches
        float away = distance(eye, p) / lamp_reach;
        colour += albedo * lamp * max(dot(n, v), 0.0) / (1.0 + away * away);
    }
    return colour;
}
