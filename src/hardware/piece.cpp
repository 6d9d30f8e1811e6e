#include "hardware/piece.h"
#include "base/quantity.h"
#include "base/text.h"
#include "hardware/hardware.h"
#include <cmath>
#include <numbers>

namespace lp {
namespace {

/// The shipped tables and the maker's own as they were when they were first asked for.
const Hardware& tables() {
    static const Hardware all;
    return all;
}

/// "M3", "M2.5"
std::string metric(double thread_mm) {
    return std::string("M").append(format_number(thread_mm, 2));
}

bool says(const HardwareRow& row, const char* word) {
    return row.name.find(word) != std::string::npos;
}

std::optional<Piece> piece_of(const HardwareRow& row) {
    auto size = [&](const char* letter) {
        const double* found = row.size_of(letter);
        return found ? *found : 0.0;
    };
    using Kind = Piece::Kind;
    Piece p;
    p.name = row.size + " " + row.name + ", " + row.standard;
    p.sure = row.sure;
    p.across_mm = size("d");
    p.length_mm = size("l");
    p.flats_mm = size("s");
    p.head_mm = size("dk");
    p.head_high_mm = size("k");
    if (row.id.rfind("iso4026", 0) == 0 || says(row, "grub")) {
        p.kind = Kind::Grub;
    } else if (row.size_of("dk") && row.size_of("k")) {
        p.kind = says(row, "countersunk") ? Kind::Countersunk : Kind::Screw;
        if (row.size_of("dk_knurled")) p.head_mm = size("dk_knurled");
        if (row.size_of("angle_deg")) p.cone_deg = size("angle_deg");
    } else if (row.size_of("s") && row.size_of("k")) {
        p.kind = Kind::HexScrew;
    } else if (row.size_of("s") && (row.size_of("m") || row.size_of("h"))) {
        p.kind = says(row, "square") ? Kind::SquareNut : Kind::Nut;
        p.length_mm = row.size_of("m") ? size("m") : size("h");
        p.bore_mm = p.across_mm;
    } else if (row.size_of("d1") && row.size_of("d2") && row.size_of("h")) {
        p.kind = Kind::Washer;
        p.bore_mm = size("d1");
        p.across_mm = size("d2");
        p.length_mm = size("h");
    } else if (row.size_of("hole") && row.size_of("outer")) {
        p.kind = Kind::Insert;
        p.bore_mm = size("d");
        p.across_mm = size("outer");
        p.core_mm = size("hole");
        p.wall_mm = size("wall");
    } else if (row.size_of("D") && row.size_of("B")) {
        p.kind = Kind::Bearing;
        p.across_mm = size("D");
        p.bore_mm = size("d");
        p.length_mm = size("B");
    } else if (row.size_of("D") && row.size_of("t")) {
        p.kind = Kind::Tube;
        p.across_mm = size("D");
        p.bore_mm = size("D") - 2 * size("t");
    } else if (row.size_of("d") && row.size_of("h")) {
        p.kind = Kind::Disc;
        p.length_mm = size("h");
    } else if (row.id.rfind("iso8734", 0) == 0) {
        p.kind = Kind::Disc;
    } else {
        return std::nullopt;
    }
    if (row.size_of("core")) p.core_mm = size("core");
    if (p.is_screw() && p.length_mm > 0)
        p.name = row.size + " x " + format_number(p.length_mm, 2) + " " + row.name + ", " + row.standard;
    return p;
}

/// How many of the words stand in a name, each by itself.
size_t words_in(const std::string& name, const std::string& words) {
    size_t found = 0;
    std::string word;
    for (char c : words + " ") {
        if (std::isalpha(static_cast<unsigned char>(c))) {
            word += char(std::tolower(static_cast<unsigned char>(c)));
            continue;
        }
        if (word.size() > 2 && name.find(word) != std::string::npos) found += 1;
        word.clear();
    }
    return found;
}

/// The hole a machine screw bites into: as it is drilled for its thread (ISO 2306).
double bitten_core(double thread_mm) {
    if (const auto rows = tables().find("iso 261 " + metric(thread_mm)))
        for (const HardwareRow& row : *rows)
            if (const double* drill = row.size_of("drill")) return *drill;
    return 0.82 * thread_mm;
}

} // namespace

Expected<Piece> piece_called(const std::string& words) {
    const auto rows = tables().find(words);
    if (!rows) return pass_on(rows);
    // "M3 insert" is one, and no lock nut with an insert in it.
    const bool insert = words.find("insert") != std::string::npos && words.find("nut") == std::string::npos;
    std::optional<Piece> best;
    size_t most = 0;
    for (const HardwareRow& row : *rows) {
        auto piece = piece_of(row);
        if (!piece || (insert && piece->kind != Piece::Kind::Insert)) continue;
        const size_t named = words_in(row.name, words); // "hexagon head" is no "hexagon socket head"
        if (best && named <= most) continue;
        best = piece;
        most = named;
    }
    if (best) {
        if (best->is_screw() && best->core_mm == 0) best->core_mm = bitten_core(best->across_mm);
        return *best;
    }
    return problem(ProblemCode::Missing, quoted_start(words) + " is a size, and no thing that goes anywhere.",
                   "Say what it is: M3 x 12 countersunk, M4 nut, magnet 7x2.");
}

std::string holder_words(const Piece& screw, const std::string& held_by) {
    return held_by == "a nut"       ? metric(screw.across_mm) + " nut"
           : held_by == "an insert" ? metric(screw.across_mm) + " insert"
                                    : std::string();
}

double clearance_hole(double thread_mm, const std::string& fit) {
    if (const auto rows = tables().find("iso 273 " + metric(thread_mm)))
        for (const HardwareRow& row : *rows)
            if (const double* hole = row.size_of(fit == "close" ? "fine" : fit == "free" ? "coarse" : "medium"))
                return *hole;
    const double room = std::max(0.1 * thread_mm, 0.4);
    return thread_mm + (fit == "close" ? room / 2 : fit == "free" ? room * 1.5 : room);
}

TurnedForm form_of(const Piece& p) {
    using Kind = Piece::Kind;
    const double r = p.across_mm / 2, head = p.head_mm / 2, l = p.length_mm;
    auto ring = [&](double inner, double outer) {
        return TurnedForm{{inner, -l}, {outer, -l}, {outer, 0}, {inner, 0}};
    };
    switch (p.kind) {
    case Kind::Screw:
        return {{0, -l}, {r, -l}, {r, 0}, {head, 0}, {head, p.head_high_mm}, {0, p.head_high_mm}};
    case Kind::Countersunk: {
        const double deep = (head - r) / std::tan(p.cone_deg / 2 * std::numbers::pi / 180);
        return {{0, -l}, {r, -l}, {r, -deep}, {head, 0}, {0, 0}};
    }
    case Kind::HexScrew:
    case Kind::Grub:
        return {{0, -l}, {r, -l}, {r, 0}, {0, 0}};
    case Kind::Nut:
    case Kind::SquareNut:
        return {}; // a prism with a bore
    case Kind::Washer:
    case Kind::Bearing:
    case Kind::Tube:
        return ring(p.bore_mm / 2, r);
    case Kind::Insert:
        return ring(p.bore_mm / 2, r);
    case Kind::Disc:
        return {{0, -l}, {r, -l}, {r, 0}, {0, 0}};
    }
    return {};
}

PrismForm prism_of(const Piece& p) {
    switch (p.kind) {
    case Piece::Kind::HexScrew:
        return {6, p.flats_mm, 0, p.head_high_mm};
    case Piece::Kind::Nut:
        return {6, p.flats_mm, -p.length_mm, 0};
    case Piece::Kind::SquareNut:
        return {4, p.flats_mm, -p.length_mm, 0};
    default:
        return {};
    }
}

} // namespace lp
