#ifndef PLACED
#define PLACED
uniform vec3 place;  // from where the picture counts to the origin of the body: `position` counts from there
#endif
