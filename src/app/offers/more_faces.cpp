#include "app/offers/more_faces.h"
#include "app/run_aside.h"
#include "base/union_find.h"

namespace lp {
namespace {

std::set<size_t> beside(const Tessellation& body, const std::set<size_t>& chosen) {
    std::set<size_t> all = chosen;
    for (const EdgeInfo& e : body.edges) {
        if (e.face_a < 0 || e.face_b < 0) continue;
        if (chosen.count(size_t(e.face_a))) all.insert(size_t(e.face_b));
        if (chosen.count(size_t(e.face_b))) all.insert(size_t(e.face_a));
    }
    return all;
}

std::set<size_t> piece_of(const Tessellation& body, const std::set<size_t>& chosen) {
    UnionFind pieces(body.faces.size());
    for (const EdgeInfo& e : body.edges)
        if (e.face_a >= 0 && e.face_b >= 0) pieces.join(size_t(e.face_a), size_t(e.face_b));
    std::set<size_t> roots, all;
    for (size_t f : chosen) roots.insert(pieces.find(f));
    for (size_t f = 0; f < body.faces.size(); ++f)
        if (roots.count(pieces.find(f))) all.insert(f);
    return all;
}

/// Everything flat in a chosen plane, wherever it lies.
std::set<size_t> in_plane(const Tessellation& body, const std::set<size_t>& chosen) {
    constexpr double near_mm = 0.02, near_cos = 0.99999;
    std::set<size_t> all = chosen;
    for (size_t c : chosen) {
        const FaceInfo& plane = body.faces[c];
        if (plane.kind != SurfaceKind::Plane) continue;
        for (size_t f = 0; f < body.faces.size(); ++f) {
            const FaceInfo& face = body.faces[f];
            if (face.kind == SurfaceKind::Plane && face.direction.dot(plane.direction) > near_cos &&
                std::fabs((face.centre - plane.centre).dot(plane.direction)) < near_mm)
                all.insert(f);
        }
    }
    return all;
}

/// The whole rounds and flats that the chosen faces are pieces of.
std::set<size_t> forms_of(const Tessellation& body, const std::set<size_t>& chosen, const Task& task) {
    std::set<size_t> all = chosen;
    const auto features = recognise(body.mesh, {.least_plane_mm2 = 0}, task);
    if (!features) return all;
    for (const Feature& feature : *features) {
        std::map<size_t, double> of; // how much of a face is this form's
        for (uint32_t i : feature.facets) of[body.face_of[i]] += body.mesh.area_vector(i).norm() / 2;
        // A face may run on beyond the form: most of it must be the form's.
        std::erase_if(of, [&](const auto& e) { return e.second < 0.5 * body.faces[e.first].area_mm2; });
        if (std::any_of(chosen.begin(), chosen.end(), [&](size_t f) { return of.count(f) > 0; }))
            for (const auto& [f, area] : of) all.insert(f);
    }
    return all;
}

} // namespace

std::set<size_t> more_faces(const Tessellation& body, const std::set<size_t>& chosen, MoreFaces how, const Task& task) {
    switch (how) {
    case MoreFaces::Beside:
        return beside(body, chosen);
    case MoreFaces::Piece:
        return piece_of(body, chosen);
    case MoreFaces::Plane:
        return in_plane(body, chosen);
    case MoreFaces::Form:
        return forms_of(body, chosen, task);
    }
    return chosen;
}

std::vector<Vec3> places_on_faces(const Tessellation& body, const std::set<size_t>& faces) {
    std::map<size_t, std::pair<double, Vec3>> largest;
    for (size_t i = 0; i < body.face_of.size(); ++i) {
        if (!faces.count(body.face_of[i])) continue;
        auto& [area, at] = largest.try_emplace(body.face_of[i], -1.0, Vec3::Zero()).first->second;
        if (const double a = body.mesh.area_vector(i).norm(); a > area) {
            area = a;
            at = (body.mesh.corner(i, 0) + body.mesh.corner(i, 1) + body.mesh.corner(i, 2)) / 3;
        }
    }
    std::vector<Vec3> places;
    for (size_t f : faces) places.push_back(largest[f].second);
    return places;
}

std::optional<QString> choose_more_faces(Session& session, MoreFaces how) {
    const auto picks = session.workspace().selection();
    std::set<size_t> chosen;
    for (const Pick& p : picks)
        if (p.kind == Pick::Kind::Face && p.part == picks[0].part && p.body == picks[0].body) chosen.insert(p.index);
    const Body* body = chosen.empty() ? nullptr : session.results().body_of(picks[0]);
    if (!body) return QString("Choose a face first.");
    const auto shape = body->shared_tessellation();
    for (size_t f : chosen)
        if (f >= shape->faces.size()) return QString("Choose a face first.");
    std::set<size_t> all;
    std::vector<Vec3> places;
    run_aside([&] {
        all = more_faces(*shape, chosen, how);
        places = places_on_faces(*shape, all);
        return true;
    });
    if (session.results().body_of(picks[0]) == nullptr ||
        session.results().body_of(picks[0])->shared_tessellation() != shape)
        return std::nullopt; // another body by now
    if (all == chosen) return QString("No more faces belong to what is chosen.");
    std::vector<Pick> now = picks; // in their order: the last one may mean something
    size_t k = 0;
    for (size_t f : all) {
        if (!chosen.count(f)) now.push_back({Pick::Kind::Face, picks[0].part, picks[0].body, f, places[k]});
        ++k;
    }
    session.workspace().select_all(now);
    return std::nullopt;
}

} // namespace lp
