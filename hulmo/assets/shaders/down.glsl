// Which way is down for a body: 0 along -Y, 1 toward a place, 2 along a direction; counted from the body's origin.
uniform int down_kind;
uniform vec3 down_at;
uniform float down_sea;

vec3 up_of(vec3 at) {
    if (down_kind == 1) return normalize(at - down_at);
    return down_kind == 2 ? -down_at : vec3(0.0, 1.0, 0.0);
}

float height_of(vec3 at) {
    if (down_kind == 1) return distance(at, down_at) - down_sea;
    return down_kind == 2 ? -dot(at, down_at) - down_sea : at.y;
}
