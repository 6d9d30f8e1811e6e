// What brings a file's mesh into a part from elsewhere.
#pragma once
#include <map>
#include <string>

namespace lp {

/// The fields of a step that brings in a file of the project, lifted by a length.
std::map<std::string, std::string> bring_in_fields(const std::string& file, double lift_mm);

/// A file of more objects is brought in as one body: nobody works on hundreds by name.
constexpr size_t most_bodies_of_a_file = 500;

} // namespace lp
