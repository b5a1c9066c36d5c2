// How Hulmo lights grounds, and brings light to the screen. Free to copy into any engine.

// Sky light on a surface that faces n: bright above, light thrown back by the ground below. +Y is up.
// Where the sky is known in all directions (sky_parts_on 1), by its first nine spherical harmonics (Ramamoorthi and Hanrahan 2001).
uniform int sky_parts_on;
uniform vec3 sky_parts[9];
vec3 sky_on(vec3 n, vec3 sky_light) {
    if (sky_parts_on == 1) {
        vec3 sum = sky_parts[0] * 0.28209479 + (sky_parts[1] * n.y + sky_parts[2] * n.z + sky_parts[3] * n.x) * 0.48860251;
        sum += (sky_parts[4] * (n.x * n.y) + sky_parts[5] * (n.y * n.z) + sky_parts[7] * (n.x * n.z)) * 1.09254843;
        sum += sky_parts[6] * (0.31539157 * (3.0 * n.z * n.z - 1.0)) + sky_parts[8] * (0.54627422 * (n.x * n.x - n.y * n.y));
        return max(sum, vec3(0.0));
    }
    float up = n.y * 0.5 + 0.5;
    return sky_light * mix(vec3(0.20, 0.185, 0.16), vec3(0.50, 0.58, 0.70), up);
}

// Light from a surface toward v (unit): Lambert diffuse and a GGX lobe (Walter et al. 2007, with Schlick's Fresnel and
// Smith's joint visibility) of the sun, and sky light. n is the normal with its maps, `plain` the one without. `shade` is
// how much of the sun comes through: 1 where nothing casts a shadow.
vec3 shaded(vec3 v, vec3 plain, vec3 n, vec3 albedo, float rough, vec3 toward_sun, vec3 sun_light, vec3 sky_light, float shade) {
    float nl = max(dot(n, toward_sun), 0.0);
    float nv = max(dot(n, v), 1e-3);
    vec3 colour = albedo * sky_on(n, sky_light);
    float f = pow(1.0 - nv, 5.0);
    colour += sky_on(reflect(-v, n), sky_light) * (0.04 + 0.96 * f * (1.0 - rough)) * (1.0 - rough) * 0.6;
    if (nl > 0.0 && dot(plain, toward_sun) > -0.2) {
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
    return colour;
}

// A filmic curve (Narkowicz, "ACES filmic tone mapping curve", 2015), on light times two to the power of the exposure.
vec3 toned(vec3 light) {
    return light * (2.51 * light + 0.03) / (light * (2.43 * light + 0.59) + 0.14);
}

// Linear light to sRGB (IEC 61966-2-1).
vec3 encoded(vec3 linear) {
    vec3 c = clamp(linear, 0.0, 1.0);
    return mix(c * 12.92, 1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, step(vec3(0.0031308), c));
}
