// Small work on texts that fields, files and sentences share.
#pragma once
#include <string>
#include <string_view>
#include <vector>

namespace lp {

/// Without blanks, tabs and line breaks at both ends.
std::string trimmed(std::string_view text);
/// The parts between separators: trimmed, without empty ones. Faces and edges go by semicolons, steps and bodies by
/// commas.
std::vector<std::string> listed(std::string_view text, char separator = ';');
/// "a, b, c".
std::string joined(const std::vector<std::string>& texts, std::string_view separator = ", ");
/// "1 edge", "3 edges".
std::string counted(size_t n, std::string_view one, std::string_view many);
/// A field's name as a person reads it: "size_x" is "size x".
std::string as_words(std::string name);
std::string in_lower_case(std::string text);
/// The whole number a text writes, without sign; -1 for any other text. Up to nine digits.
long whole_number(std::string_view text);

/// A text that may be long in quotes, as far as a sentence takes it.
std::string quoted_start(const std::string& text);

} // namespace lp
