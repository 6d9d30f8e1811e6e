// The fields of a move, for those who add or change one by hand or key.
#pragma once
#include <array>
#include <functional>
#include <map>
#include <string>

namespace lp {

struct MoveFields {
    std::string what;              ///< bodies, as a field names them
    std::array<std::string, 3> by; ///< along x, y and z, as typed; empty: the standard
};
inline constexpr const char* move_kind_id = "move";
/// Whether steps of this kind are moves.
bool is_move(const std::string& kind);
/// The name of the field that moves along an axis, 0 to 2.
const char* move_field(int axis);
/// What a move says, from the texts of its fields.
MoveFields move_fields(const std::function<std::string(const char* field)>& text);
std::map<std::string, std::string> fields_of_move(const MoveFields& move);
/// The fields of a repeat in rows that copies the bodies once by the move.
std::map<std::string, std::string> fields_of_repeated_move(const MoveFields& move);

} // namespace lp
