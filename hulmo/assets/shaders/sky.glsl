#ifndef SKY
#define SKY
// The sky, and fog before it. The sky lies in an image about the bearing of the sun, its rows closer together near the horizon.
uniform sampler2D sky_map;
uniform int from_picture;  // the sky is a picture of all directions, its middle column at sky_turn (radians)
uniform float sky_turn;
uniform vec3 true_sun;
uniform float sky_strength;
uniform vec3 disc;  // light of the sun's disc
uniform float fog;  // share of light that a metre takes at `fog_level`; 0 for none
uniform float fog_level;
uniform float fog_fall;
uniform vec4 fog_paint;  // its light; w 0: that of the sky

vec3 sky_at(vec3 v) {
    if (from_picture == 1) {
        float turn = atan(v.x, -v.z) - sky_turn;
        return textureLod(sky_map, vec2(turn * 0.15915494 + 0.5, acos(clamp(v.y, -1.0, 1.0)) * 0.31830989), 0.0).rgb * sky_strength;
    }
    float rise = asin(clamp(v.y, -1.0, 1.0)) * 0.63661977;
    vec2 a = v.xz, b = true_sun.xz;
    float turn = acos(clamp(dot(a, b) * inversesqrt(max(dot(a, a) * dot(b, b), 1e-12)), -1.0, 1.0)) * 0.31830989;
    return texture(sky_map, vec2(turn, 0.5 + 0.5 * sign(rise) * sqrt(abs(rise)))).rgb * sky_strength;
}

vec3 sun_at(vec3 v) {
    if (from_picture == 1) return vec3(0.0);
    return disc * smoothstep(0.99985, 0.99992, dot(v, true_sun)) * step(-0.01, v.y);
}

// How much light comes through fog from a place at a distance along v: exp(-integral of its density), which falls with height
// as exp(-(y - level) / fall).
float through_fog(vec3 from, vec3 v, float away) {
    if (fog <= 0.0) return 1.0;
    if (fog_fall <= 0.0) return exp(-fog * away);
    float here = fog * exp(-clamp((from.y - fog_level) / fog_fall, -60.0, 60.0));
    float x = v.y * away / fog_fall;
    float run = abs(x) < 1e-3 ? away : away * (1.0 - exp(-clamp(x, -60.0, 60.0))) / x;
    return exp(-min(here * run, 80.0));
}

vec3 fogged(vec3 light, vec3 from, vec3 v, float away) {
    float through = through_fog(from, v, away);
    if (through > 0.9999) return light;
    vec3 own = fog_paint.w > 0.5 ? fog_paint.rgb : sky_at(normalize(vec3(v.x, 0.03, v.z)));
    return mix(own, light, through);
}
#endif
