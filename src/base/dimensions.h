// What an expression measures: how often a length and an angle go into it.
#pragma once
#include "base/quantity.h"
#include <functional>
#include <optional>
#include <string>

namespace lp {

struct Dimensions {
    double length = 0, angle = 0; ///< exponents: 60 mm / 4 mm has none, 2 mm * 3 mm has length 2
    bool bare = false;            ///< a plain number: takes what stands beside it in a sum
};

/// Of a sum, product, power, comparison or call; `of_word` answers for names and for units after numbers. Nothing when
/// it cannot be read, or adds what cannot be added. Follows the grammar of evaluate_expression().
std::optional<Dimensions>
dimensions_of(const std::string& expression,
              const std::function<std::optional<Dimensions>(const std::string& word, bool unit)>& of_word);

} // namespace lp
