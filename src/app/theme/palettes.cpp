// The two palettes: every role on paper and on the night bench.
#include "app/theme/theme.h"
#include <array>
#include <atomic>

namespace lp::theme {
namespace {

struct Shades {
    Role role;
    QRgb paper, night;
};
constexpr Shades palettes[] = {
    {Role::Paper, 0xf4f1ea, 0x1b2126},        {Role::Card, 0xfbf9f4, 0x222a30},
    {Role::LedgerGround, 0xece7dc, 0x1f262b}, {Role::Line, 0xd8d2c4, 0x414d55},
    {Role::Ink, 0x22303a, 0xe8e4da},          {Role::SoftInk, 0x5d6872, 0xadb7be},
    {Role::Accent, 0x6b3a5b, 0xd9a0c8},       {Role::OnAccent, 0xffffff, 0x261522},
    {Role::Wash, 0xefe6ec, 0x3b2d39},         {Role::Brass, 0x8a5a12, 0xe6bd72},
    {Role::BrassRule, 0xc9a95a, 0x94793c},    {Role::Tape, 0xf0d999, 0x5c4b22},
    {Role::TapeTick, 0x8a6d2a, 0xd6bd7c},     {Role::TapeInk, 0x22303a, 0xfaf0d4},
    {Role::Mat, 0xdfe6dd, 0x2c3731},          {Role::MatGrid, 0x9fb3a5, 0x475a50},
    {Role::MatInk, 0x4c6354, 0xa9c0b0},       {Role::Glass, 0xdcebf2, 0x2f444f},
    {Role::GlassBody, 0xb5d7e8, 0x6fa3bd},    {Role::GlassEdge, 0x4a7a9a, 0x9cc7dc},
    {Role::Hanging, 0xb4541a, 0xf0965a},      {Role::HangingHatch, 0x7a3408, 0x6b2d08},
    {Role::Wrong, 0x9b1c31, 0xff919d},        {Role::Slack, 0x2f6d8c, 0x86c3e3},
    {Role::Layer, 0xb9aa8f, 0x8f8268},        {Role::LayerSupport, 0x8fa7b0, 0x7391a0},
    {Role::ViewTop, 0xf6f3ed, 0x2b333a},      {Role::ViewBottom, 0xe9e4d8, 0x1d2328},
    {Role::Field, 0xffffff, 0x171c20},        {Role::Key, 0xefece4, 0x323c43},
    {Role::Selected, 0x8d4a77, 0xd08ab9},     {Role::Hover, 0xc59ab5, 0x8d6380},
    {Role::Section, 0xc9a95a, 0xc9a95a},      {Role::BodyEdge, 0x22303a, 0x10161a},
    {Role::ChosenEdge, 0x6b3a5b, 0x4d2340},
};
static_assert(std::size(palettes) == size_t(Role::ChosenEdge) + 1, "every role has its two shades");

std::atomic<bool> night = false; // pictures are drawn on a thread of their own

} // namespace

void use_night_bench(bool on) {
    night = on;
}

bool is_night_bench() {
    return night;
}

QColor colour(Role role) {
    const Shades& shades = palettes[size_t(role)]; // in the order of the roles; a test holds it
    return QColor::fromRgb(night ? shades.night : shades.paper);
}

std::vector<Role> all_roles() {
    std::vector<Role> roles;
    for (const Shades& shades : palettes) roles.push_back(shades.role);
    return roles;
}

} // namespace lp::theme
