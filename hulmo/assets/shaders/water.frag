#version 330 core
// Water: what is seen through it, what it mirrors, its shoreline. Laid over the scene with one share for all colours.
#include place.glsl
#include sky.glsl
uniform vec3 phase;
uniform vec3 eye;
uniform vec3 sun_light;
uniform vec3 sky_light;
uniform vec3 shallow;
uniform vec3 deep;
uniform float clear;
uniform float steep;
uniform float wave;
uniform float foam;
in vec3 at;
in vec3 upward;
in vec2 known;  // metres down to the ground, metres to the shore
out vec4 colour;

// Slope of some rows of waves that run across each other; rows that pixels are too coarse for are left out.
vec2 slope(vec2 p, vec2 dx, vec2 dy) {
    vec2 sum = vec2(0.0);
    float turn = 0.6;
    float size = 6.2831853 / wave;
    float share = 0.36;
    // rows bend and break off, so that no lattice shows
    vec2 drift = vec2(sin(p.y * size * 0.113 + 2.0) + sin(p.x * size * 0.071), sin(p.x * size * 0.097) + sin(p.y * size * 0.059));
    for (int i = 0; i < 7; ++i) {
        vec2 way = vec2(cos(turn), sin(turn));
        float fine = size * max(abs(dot(dx, way)), abs(dot(dy, way)));
        float along = dot(p, vec2(-way.y, way.x)) * size;
        float angle = dot(p, way) * size + 1.7 * float(i) + 1.3 * dot(drift, way.yx) + 0.8 * sin(along * 0.23 + float(i));
        float gust = 0.6 + 0.4 * sin(along * 0.17 + dot(drift, way) + 2.1 * float(i));
        sum += way * (cos(angle) * share * gust * (1.0 - smoothstep(0.8, 3.0, fine)));
        turn += 2.3999632;
        size *= 1.41;
        share *= 0.86;
    }
    return sum;
}

void main() {
    vec3 here = at + place;
    vec3 v = eye - here;
    float away = length(v);
    v /= away;
    vec3 up = normalize(upward);
    bool under = dot(v, up) < 0.0;
    vec3 east = normalize(abs(up.y) > 0.9 ? cross(up, vec3(0.0, 0.0, 1.0)) : cross(vec3(0.0, 1.0, 0.0), up));
    vec3 north = cross(up, east);
    vec3 p = at + phase;
    vec2 plane = vec2(dot(p, east), dot(p, north));
    vec2 bend = slope(plane, dFdx(plane), dFdy(plane)) * steep;
    vec3 n = normalize(up - east * bend.x - north * bend.y);
    if (under) n = -n;
    float nv = max(dot(n, v), 0.02);
    vec3 mirrored = reflect(-v, n);
    float side = under ? -1.0 : 1.0;
    mirrored += up * (max(0.02 - side * dot(mirrored, up), 0.0) * side);
    mirrored = normalize(mirrored);
    // Schlick's Fresnel for water; from below most is mirrored but straight above
    float f = under ? mix(0.05, 0.9, smoothstep(0.9, 0.55, nv)) : 0.02 + 0.98 * pow(1.0 - nv, 5.0);
    float depth = max(known.x, 0.0);
    float path = under ? clear * 0.4 : depth / max(dot(v, up), 0.25);
    float through = exp(-3.0 * path / clear);
    vec3 light = sky_light * 0.55 + sun_light * (0.15 * max(true_sun.y, 0.0));
    vec3 own = mix(shallow, deep, 1.0 - exp(-2.0 * depth / clear)) * light;
    vec3 sky = under ? deep * light : fogged(sky_at(mirrored), here, mirrored, 1e7);
    if (!under) {
        // the sun's glint, wide as the waves that are too fine to be seen
        float rough = 0.02 + 0.25 * steep;
        vec3 h = normalize(v + true_sun);
        float nh = max(dot(n, h), 0.0);
        float a2 = rough * rough * rough * rough;
        float d = nh * nh * (a2 - 1.0) + 1.0;
        sky += sun_light * min(a2 / (3.14159265 * d * d) * 0.25, 40.0) * step(0.0, dot(up, true_sun));
    }
    vec3 sum = own * ((1.0 - through) * (1.0 - f)) + sky * f;
    float share = 1.0 - through * (1.0 - f);
    if (foam > 0.0 && !under) {
        float wobble = 0.35 * sin(plane.x * 3.1 / max(foam, 0.05) + bend.x * 9.0) * sin(plane.y * 2.7 / max(foam, 0.05));
        float rim = (1.0 - smoothstep(0.25, 1.0, known.y / foam + wobble)) * step(-0.5 * foam, known.y);
        rim *= 0.75;
        sum = mix(sum, vec3(0.85) * (sky_light * 0.6 + sun_light * (0.3 * max(dot(up, true_sun), 0.0))), rim);
        share = mix(share, 1.0, rim);
    }
    colour = vec4(sum, share);
}
