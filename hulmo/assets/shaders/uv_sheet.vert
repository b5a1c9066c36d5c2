#version 330 core
// Charts in the plane of texture coordinates: what is being dragged goes along.
uniform vec4 view;   // from coordinates to the screen: factor and offset of each way
uniform mat3 drag;
in vec2 in_uv;
in float in_state;
in float in_goes;
flat out int state;

void main() {
    vec2 uv = in_goes > 0.5 ? (drag * vec3(in_uv, 1.0)).xy : in_uv;
    state = int(in_state + 0.5);
    gl_Position = vec4(uv * view.xy + view.zw, 0.0, 1.0);
    gl_PointSize = 7.0;
}
