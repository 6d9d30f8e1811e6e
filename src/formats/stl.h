// STL, binary and ASCII (layout: reference/tables.md 9). No unit in the file: millimetres are meant.
#pragma once
#include "base/problem.h"
#include "shape/tri_mesh.h"

namespace lp {

/// Facets as they stand in the file, three vertices each, not welded; non-finite corners are kept for the inspection to
/// count. Which of the two forms it is, is seen from the length first: a binary file may begin with "solid".
/// Refused: empty, no STL, cut off, a count that does not match the length, no finite facet at all.
Expected<TriMesh> read_stl(const std::string& bytes);
std::string write_stl_binary(const TriMesh& mesh);
std::string write_stl_ascii(const TriMesh& mesh, const std::string& name);

} // namespace lp
