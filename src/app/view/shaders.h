// The programs the view is drawn with (OpenGL 3.3), for renderer.cpp alone. Their version and their switches are put
// before them when they are linked.
#pragma once

namespace lp::shaders {

// Software OpenGL works through both sides of every `if` for every pixel: what is seldom needed, the colours of a map
// (MAP) and of what is chosen or hovered (STATES), stands in programs of its own.
inline constexpr const char* body_vertex = R"(
layout(location=0) in vec3 position; layout(location=1) in vec3 normal; layout(location=2) in uint face; layout(location=3) in float value_in;
uniform mat4 mvp; uniform mat4 place; uniform mat3 turn; uniform vec4 section;
out vec3 n; flat out uint face_id; out float value;
void main(){
  value = value_in;
  vec4 world = place*vec4(position,1);
  gl_Position = mvp*world; gl_ClipDistance[0] = dot(section, world);
  n = turn*normal; face_id = face;
})";

// Matte light from the upper left, softened. A map colours by its values: evenly from end to end of its scale with
// contours, or from the part's own colour up to a limit and hatched beyond it.
inline constexpr const char* body_fragment = R"(
in vec3 n; flat in uint face_id; in float value;
uniform int map_scale; uniform float map_high; uniform float map_contour; uniform float map_limit; uniform vec3 scale[5];
uniform vec3 colour; uniform float alpha; uniform usamplerBuffer selected; uniform int any_selected; uniform int hovered; uniform int whole;
uniform vec3 select_colour; uniform vec3 hover_colour; uniform vec3 hang_colour; uniform vec3 hatch_colour; uniform int glass;
out vec4 fragment;
void main(){
  vec3 N = normalize(n); if(!gl_FrontFacing) N=-N;
  vec3 c = colour;
#ifdef MAP
  if (map_scale == 2) {
    float near = smoothstep(map_limit*0.5, map_limit, value)*0.35;
    c = mix(c, hang_colour, near);
    if (value > map_limit + 0.01) { float h = mod(gl_FragCoord.x+gl_FragCoord.y, 9.0); c = h<2.0 ? hatch_colour : hang_colour; }
  }
  if (map_scale == 1 && value >= 0.0) {
    float t = clamp(value/map_high, 0.0, 0.9999)*4.0; int i = int(t);
    c = mix(scale[i], scale[i+1], t-float(i));
    // Lines half way between the round values: an even gap as wanted stays clear of them.
    float line = abs(fract(value/map_contour)-0.5)*map_contour/max(fwidth(value),1e-6);
    c = mix(c*0.35, c, smoothstep(0.4, 1.2, line));
    if (value < map_limit-0.02 && mod(gl_FragCoord.x-gl_FragCoord.y, 9.0) < 2.0) c = hatch_colour;
  }
#endif
#ifdef STATES
  if (whole == 1) c = mix(c, select_colour, 0.34);
  if (whole == 2) c = mix(c, hover_colour, 0.22);
  uint state = any_selected == 1 ? texelFetch(selected, int(face_id)).r : 0u;
  // Marked faces, by pattern: dots where seen, rungs where mating, crossed where never supported, pillars where supported.
  if (state > 1u) {
    vec2 at = gl_FragCoord.xy; uint mark = state >> 1u;
    vec2 tile = mod(at, 11.0);
    bool inked = mark == 1u ? length(tile-5.5) < 2.3 : mark == 2u ? tile.y < 2.0 && mod(at.x, 11.0) < 7.0 :
                 mark == 3u ? mod(at.x+at.y, 13.0) < 1.8 || mod(at.x-at.y, 13.0) < 1.8 : tile.x < 2.2;
    float luma = dot(c, vec3(0.3,0.6,0.1));
    if (inked) c = luma > 0.35 ? c*0.35 : mix(c, vec3(1.0), 0.6);
  }
  if ((state & 1u) != 0u) c = mix(c, select_colour, 0.72);
  if (hovered == int(face_id)) c = mix(c, hover_colour, 0.5);
#endif
  float key = max(dot(N, normalize(vec3(-0.35,0.55,0.76))),0.0);
  float fill = max(dot(N, normalize(vec3(0.75,0.1,0.45))),0.0);
  float light = 0.42 + 0.50*key + 0.14*fill;
  if (glass == 1) light = 0.80 + 0.20*key;
  fragment = vec4(min(c*light, vec3(1.0)), alpha);
})";

inline constexpr const char* edge_vertex = R"(
layout(location=0) in vec3 a_point; layout(location=1) in vec3 b_point; layout(location=2) in uint edge;
uniform mat4 mvp; uniform mat4 place; uniform vec2 viewport; uniform float width; uniform vec4 section; uniform usamplerBuffer selected; uniform int any_selected; uniform int hovered; uniform float bias;
out float side; out float along; flat out float half_width; flat out int state;
void main(){
  vec4 wa = place*vec4(a_point,1), wb = place*vec4(b_point,1);
  vec4 a = mvp*wa, b = mvp*wb;
  vec2 d = (b.xy/b.w-a.xy/a.w)*viewport; float l = length(d); d = l>1e-6 ? d/l : vec2(1,0); vec2 nn = vec2(-d.y,d.x);
  state = 0;
#ifdef STATES
  if (any_selected == 1 && texelFetch(selected, int(edge)).r > 0u) state = 2; if (state==0 && hovered==int(edge)) state = 1;
#endif
  half_width = (state==2 ? width+5.0 : state==1 ? width+4.0 : width)*0.5; float reach = half_width+0.75;
  float s = ((gl_VertexID&1)==0) ? -1.0 : 1.0; bool second = (gl_VertexID&2)!=0;
  vec4 p = second ? b : a;
  p.xy += (nn*s*reach + d*(second?0.5:-0.5))*2.0/viewport*p.w; p.z -= (state>0 ? bias*2.0 : bias)*p.w;
  gl_Position = p; side = s*reach; along = second ? l*0.5 : 0.0; gl_ClipDistance[0] = dot(section, second?wb:wa);
})";

inline constexpr const char* edge_fragment = R"(
in float side; in float along; flat in float half_width; flat in int state; uniform vec4 ink; uniform vec3 select_colour; uniform float dash; out vec4 fragment;
// What is chosen is a dark line between light ones, what is hovered a light one between dark ones: seen on every colour.
void main(){
  float a = clamp(half_width+0.5-abs(side),0.0,1.0)*ink.a;
  if (dash > 0.0 && mod(along, dash) > dash*0.6) discard;
#ifdef STATES
  vec3 light = vec3(1.0,0.97,0.88);
  float core = smoothstep(half_width-2.1, half_width-1.1, abs(side));
  vec3 c = state==2 ? mix(select_colour, light, core) : state==1 ? mix(light, select_colour, core) : ink.rgb;
  fragment = vec4(c, state>0 ? clamp(half_width+0.5-abs(side),0.0,1.0) : a);
#else
  fragment = vec4(ink.rgb, a);
#endif
})";

inline constexpr const char* plane_vertex = R"(
uniform mat4 mvp; uniform vec3 origin, ux, uy; out vec2 at;
void main(){ vec2 s = vec2((gl_VertexID&1)*2-1,(gl_VertexID>>1)*2-1); at = s; gl_Position = mvp*vec4(origin+ux*s.x+uy*s.y,1); })";

inline constexpr const char* cap_fragment = R"(
uniform vec3 colour; uniform vec3 hatch; out vec4 fragment;
void main(){ float h = mod(gl_FragCoord.x-gl_FragCoord.y,8.0); fragment = vec4(h<1.4 ? hatch : colour,1); })";

inline constexpr const char* mat_fragment = R"(
in vec2 at; uniform vec2 half_size; uniform vec3 ground; uniform vec3 grid; uniform float pixel; uniform float alpha; out vec4 fragment;
float lines(vec2 p, float step, float width){
  // Width in pixels along each axis, whatever the slant of the view.
  vec2 w = max(fwidth(p), vec2(1e-4))*width; vec2 g = abs(fract(p/step-0.5)-0.5)*step/w; return 1.0-clamp(min(g.x,g.y),0.0,1.0); }
void main(){
  vec2 p = at*half_size; float l = 0.0;
  if (pixel < 0.09) l = max(l, 0.22*lines(p, 1.0, 1.0));
  if (pixel < 1.2) l = max(l, 0.42*lines(p, 10.0, 0.75));
  l = max(l, 0.85*lines(p, 50.0, 1.0));
  vec2 rim = (half_size-abs(p))/max(fwidth(p),vec2(1e-4)); l = max(l, 1.0-clamp(min(rim.x,rim.y)-0.8,0.0,1.0));
  fragment = vec4(mix(ground, grid, l), alpha);
})";

inline constexpr const char* ground_vertex = R"(
out float y; void main(){ vec2 s = vec2((gl_VertexID&1)*2-1,(gl_VertexID>>1)*2-1); y = s.y*0.5+0.5; gl_Position = vec4(s,1,1); })";
inline constexpr const char* ground_fragment = R"(
in float y; uniform vec3 top; uniform vec3 bottom; out vec4 fragment; void main(){ fragment = vec4(mix(bottom, top, y),1); })";

} // namespace lp::shaders
