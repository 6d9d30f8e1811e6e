// The model part of a 3MF package, read by ourselves: where it holds so many objects that lib3mf, which compares every
// object with all before it, would take minutes, or so many facets. Used by formats/threemf.cpp alone.
#pragma once
#include "formats/formats.h"

namespace lp {

/// From so many objects on, or bytes of the model. With 5,000 objects lib3mf takes some seconds, with 2 M facets ten.
inline constexpr size_t many_threemf_objects = 2000, large_threemf_model = 8 << 20;

/// Several things to build may be one object: what tells them apart is their part number, where it is the object's name
/// and more.
std::string name_of_copy(const std::string& object, const std::string& number);

/// How many objects a model defines, by its tags.
size_t count_threemf_objects(const std::string& model);

/// Every build item of the core specification (3MF Core 1.3, chapters 3 to 5) with its transforms applied, names, units
/// and the colours of base materials. Refused: what is no XML, corners that are not there, places that are no numbers,
/// components deeper than 16 or of more than 40 million facets, nothing to build.
Expected<std::vector<FileObject>> read_threemf_model(std::string model);

} // namespace lp
