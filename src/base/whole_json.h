// Whole numbers in JSON: a fraction or an exponent may write one that no whole number of the program can hold.
#pragma once
#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>
#include <type_traits>
#include <vector>

namespace lp {

template <class T> struct is_list : std::false_type {};
template <class T> struct is_list<std::vector<T>> : std::true_type {};

/// Whether get<T>() is defined for it, as far as its size goes; true for all that are no whole numbers or lists of
/// them.
template <class T> bool fits_whole(const nlohmann::json& value) {
    if constexpr (is_list<T>::value) {
        if (value.is_array())
            for (const auto& item : value)
                if (!fits_whole<typename T::value_type>(item)) return false;
    } else if constexpr (std::is_integral_v<T> && !std::is_same_v<T, bool>) {
        if (!value.is_number_float()) return true;
        const double d = value.get<double>(), past = std::ldexp(1.0, std::numeric_limits<T>::digits);
        return d > (std::is_signed_v<T> ? -past : -1.0) && d < past;
    }
    return true;
}

/// The value, or a json::exception when it is of another type or too large.
template <class T> T whole_of(const nlohmann::json& value) {
    if (!fits_whole<T>(value)) throw nlohmann::json::other_error::create(501, "a whole number is too large", &value);
    return value.get<T>();
}

} // namespace lp
