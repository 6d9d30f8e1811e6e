#include "project/map_colours.h"
#include <algorithm>
#include <cmath>
#include <map>

namespace lp {

uint32_t map_colour_number(double share) {
    static constexpr int stops[5][3] = {
        {0x4d, 0x2a, 0x52}, {0x46, 0x61, 0x7e}, {0x41, 0x94, 0x8c}, {0x93, 0xbd, 0x6e}, {0xf0, 0xe6, 0xa0}};
    const double t = std::clamp(share, 0.0, 1.0) * 4;
    const int i = std::min(3, int(t));
    uint32_t colour = 0;
    for (int k = 0; k < 3; ++k)
        colour = colour << 8 | uint32_t(std::lround(stops[i][k] + (stops[i + 1][k] - stops[i][k]) * (t - i)));
    return colour;
}

FileObject coloured_object(const SurfaceMap& map, const Transform& place, uint32_t plain, const std::string& name) {
    FileObject object{.name = name, .colour = plain};
    if (!map.shape || !map.values) return object;
    const TriMesh& mesh = map.shape->mesh;
    const double span = std::max(map.high - map.low, 1e-12);
    std::map<std::pair<uint32_t, uint32_t>, uint32_t> corners; // of the mesh, in a colour: number in the object
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        Triangle facet;
        for (size_t k = 0; k < 3; ++k) {
            const size_t at = 3 * i + k;
            const float value = at < map.values->size() ? (*map.values)[at] : -1;
            const uint32_t colour = value < 0 ? plain : map_colour_number((double(value) - map.low) / span);
            const uint32_t v = mesh.triangles[i][k];
            const auto [found, fresh] = corners.try_emplace({v, colour}, uint32_t(object.mesh.vertices.size()));
            if (fresh) {
                object.mesh.vertices.push_back(place * mesh.vertices[v]);
                object.vertex_colours.push_back(colour);
            }
            facet[k] = found->second;
        }
        object.mesh.triangles.push_back(facet);
    }
    return object;
}

} // namespace lp
