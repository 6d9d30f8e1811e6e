// More faces than the chosen ones: what lies beside them, what they are a piece or a form of.
#pragma once
#include "app/session.h"
#include "mesh/region.h"
#include <set>

namespace lp {

enum class MoreFaces { Beside, Piece, Plane, Form };

/// Faces of a body, by number, that belong to the chosen ones; these are among them. Linear, but for forms: see
/// recognise().
std::set<size_t> more_faces(const Tessellation& body, const std::set<size_t>& chosen, MoreFaces how,
                            const Task& task = {});
/// A place on each face, for references: the middle of its largest facet.
std::vector<Vec3> places_on_faces(const Tessellation& body, const std::set<size_t>& faces);
/// Chooses them instead; forms are looked for beside the interface thread. Why not, in words.
std::optional<QString> choose_more_faces(Session& session, MoreFaces how);

} // namespace lp
