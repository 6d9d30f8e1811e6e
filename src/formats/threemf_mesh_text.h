// The triangles of a 3MF model as they stand in its XML, written and read without a tree of nodes: a file of two
// million facets has three million elements.
#pragma once
#include "shape/tri_mesh.h"
#include <string>
#include <vector>

namespace lp {

/// A <mesh> element (3MF Core 1.3, chapter 4): places in single precision, as many digits as bring them back.
std::string threemf_mesh_text(const TriMesh& mesh);

/// What stands in the place of the first, second ... "<mesh>" to "</mesh>" of a model: theirs. False where there are
/// fewer or more.
bool replace_threemf_meshes(std::string& model, const std::vector<std::string>& meshes);

/// Takes the meshes out of a model: `<mesh lifted="0"/>`, "1" ... stand in their place. Plain ones alone: a model with
/// comments, entities or anything else that is not vertices and triangles stays as it is, and nothing is taken.
/// Corners that are not there are left to the caller.
std::vector<TriMesh> lift_threemf_meshes(std::string& model);

} // namespace lp
