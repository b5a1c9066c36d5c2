#version 330 core
// From linear light to the screen: background, contact shading, exposure, tone curve, sRGB.
#include shade.glsl
#include sky.glsl
uniform sampler2D colour_map;
uniform sampler2D depth_map;
uniform mat4 inverse_view_projection;
uniform vec3 eye;
uniform vec3 plain_high;
uniform vec3 plain_low;
uniform float exposure;
uniform float near;
uniform float far;
uniform vec2 pixel;
uniform vec4 window;  // what is drawn of the whole picture: left and lower edge, width and height, 0 to 1
uniform float reach;
uniform int sky;
uniform int tone;  // 0 as it is, 1 by the filmic curve, 2 figures and no light
in vec2 at;
out vec4 result;

float distance_of(float d) {
    return near * far / (far - d * (far - near));
}

#if CONTACT
#if HASTY
const int LOOKS = 4;
#else
const int LOOKS = 12;
#endif

// Contact shading: how much nearer the surroundings stand than the pixel, within `reach` metres.
float contact(float z) {
    float radius = clamp(reach / z, pixel.y * window.w * 3.0, 0.08);
    float turn = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))) * 6.2831853;
    float sum = 0.0;
    for (int i = 0; i < LOOKS; ++i) {
        float r = radius * sqrt((float(i) + 0.5) / float(LOOKS));
        float angle = turn + float(i) * 2.3999632;
        vec2 off = vec2(cos(angle) * pixel.x / pixel.y, sin(angle)) * r / window.w;
        float a = z - distance_of(texture(depth_map, at + off).r);
        float b = z - distance_of(texture(depth_map, at - off).r);
        // two opposite looks, so that a plain slope cancels out
        float rise = (a + b) / (r * z * 2.0);
        float outside = max(abs(a), abs(b));
        sum += clamp(rise, 0.0, 1.0) * (1.0 - smoothstep(reach, reach * 2.5, outside));
    }
    return 1.0 - clamp(sum / float(LOOKS) * 1.5, 0.0, 0.75);
}
#endif

vec3 seen_along() {
    vec4 far_point = inverse_view_projection * vec4(at * 2.0 - 1.0, 1.0, 1.0);
    return normalize(far_point.xyz / far_point.w - eye);
}

void main() {
    ivec2 texel = ivec2(gl_FragCoord.xy);
    float d = texelFetch(depth_map, texel, 0).r;
    vec3 linear;
    if (d >= 1.0) {
        if (sky == 0) {
            vec3 page = mix(plain_low, plain_high, smoothstep(0.0, 1.0, window.y + at.y * window.w));
            result = vec4(page, 1.0);
            return;
        }
        vec3 v = seen_along();
        linear = fogged(sky_at(v) + sun_at(v), eye, v, 1e7);
    } else {
        linear = texelFetch(colour_map, texel, 0).rgb;
#if CONTACT
        linear *= contact(distance_of(d));
#endif
        if (sky != 0 && fog > 0.0) {
            vec4 place = inverse_view_projection * vec4(at * 2.0 - 1.0, d * 2.0 - 1.0, 1.0);
            vec3 way = place.xyz / place.w - eye;
            float away = max(length(way), 1e-6);
            linear = fogged(linear, eye, way / away, away);
        }
    }
    linear *= exp2(exposure);
    result = vec4(tone == 2 ? linear : encoded(tone == 1 ? toned(linear) : linear), 1.0);
}
