// Reading fields of JSON that anyone may have written: what is wrong is refused with where it stands.
#pragma once
#include "base/quantity.h"
#include "base/whole_json.h"
#include "project/project.h"
#include <nlohmann/json.hpp>
#include <set>

namespace lp::json_fields {

using nlohmann::json;

/// Thrown by these, and caught where the reading of a project begins.
struct Refused {
    Problem problem;
};

[[noreturn]] inline void refuse(const std::string& sentence, const std::string& advice = "Correct it in the file.") {
    throw Refused{Problem{ProblemCode::File, sentence, advice}};
}

inline const json& object(const json& value, const std::string& where) {
    if (!value.is_object()) refuse(where + " is not an object in braces.");
    return value;
}

inline std::string text_of(const json& value, const std::string& where) {
    if (value.is_string()) return value.get<std::string>();
    if (value.is_number()) return format_number(value.get<double>(), 9);
    if (value.is_boolean()) return value.get<bool>() ? "true" : "false";
    if (value.is_object()) return value.dump(); // a drawing, a picked face
    if (value.is_array()) {                     // a list of names
        std::string joined;
        for (const json& item : value) joined += (joined.empty() ? "" : ", ") + text_of(item, where);
        return joined;
    }
    refuse(where + " is neither a text nor a number.");
}

template <class T> T get_or(const json& from, const char* key, T standard, const std::string& where) {
    auto found = from.find(key);
    if (found == from.end() || found->is_null()) return standard;
    try {
        return whole_of<T>(*found);
    } catch (const json::exception&) {
        refuse(where + ": \"" + key + "\" is of the wrong type.");
    }
}

/// Fields of later versions, kept as text.
inline std::string rest(const json& from, const std::set<std::string>& known) {
    json extra;
    for (auto& [key, value] : from.items())
        if (!known.count(key)) extra[key] = value;
    return extra.empty() ? std::string() : extra.dump();
}

inline void put_rest(json& into, const std::string& text) {
    if (text.empty()) return;
    const json extra = json::parse(text, nullptr, false);
    if (!extra.is_object()) return;
    for (auto& [key, value] : extra.items())
        if (!into.contains(key)) into[key] = value;
}

template <class Id> Id id_of(const json& from, const char* key, const std::string& where) {
    return Id(get_or(from, key, uint64_t(0), where));
}

inline json vec_json(const Vec3& v) {
    return {v.x(), v.y(), v.z()};
}

inline Vec3 vec_of(const json& value, const std::string& where) {
    try {
        auto a = value.get<std::array<double, 3>>();
        return {a[0], a[1], a[2]};
    } catch (const json::exception&) {
        refuse(where + " is not three numbers.");
    }
}

} // namespace lp::json_fields
