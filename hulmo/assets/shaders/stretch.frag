#version 330 core
// A picture with few pixels, stretched over what has changed: where neither the surface that is seen now nor the one that was
// seen before lies within the ball that holds the change, the pixel stays as it is.
uniform sampler2D picture;
uniform sampler2D depth_map;
uniform sampler2D depth_before;  // of the whole picture
uniform mat4 inverse;            // from the part to space
uniform vec4 ball;
in vec2 at;
out vec4 result;

bool within(float depth) {
    vec4 p = inverse * vec4(at * 2.0 - 1.0, depth * 2.0 - 1.0, 1.0);
    vec3 away = p.xyz / p.w - ball.xyz;
    return dot(away, away) <= ball.w * ball.w;
}

void main() {
    float now = texture(depth_map, at).r;
    float before = texelFetch(depth_before, ivec2(gl_FragCoord.xy), 0).r;
    if (now < 1.0 && !within(now) && !within(before)) discard;
    result = vec4(texture(picture, at).rgb, 1.0);
}
