#include "layers/gcode.h"
#include "base/quantity.h"
#include <array>
#include <charconv>
#include <cmath>
#include <numbers>

namespace lp {
namespace {

constexpr double inch_mm = 25.4, farthest_mm = 100'000, arc_within_mm = 0.01;
constexpr size_t most_moves = 20'000'000;

/// The words of one line: a letter and a number each.
struct Words {
    std::array<double, 26> value{};
    uint32_t there = 0;
    bool has(char letter) const { return there >> (letter - 'A') & 1; }
    double of(char letter, double otherwise = 0) const { return has(letter) ? value[size_t(letter - 'A')] : otherwise; }
};

class GcodeReader {
  public:
    GcodeReader(const std::string& bytes, const Task& task)
        : at_(bytes.data()), end_(at_ + bytes.size()), task_(task) {}

    Expected<PrintPlan> read() {
        const double all = double(end_ - at_);
        const char* begin = at_;
        while (at_ < end_ && !wrong_) {
            ++plan_.file_lines;
            line();
            if (plan_.file_lines % 65536 == 0) {
                task_.tell("Reading the plan", double(at_ - begin) / all);
                if (task_.stopped()) return cancelled();
            }
        }
        if (wrong_) return pass_on(*wrong_);
        if (plan_.moves.empty())
            return problem(ProblemCode::File, "There is no move in it: this is no G-code.",
                           "Choose the file that the printer is given.");
        return std::move(plan_);
    }

  private:
    void refuse(const std::string& what) {
        wrong_ = Problem{ProblemCode::File, "Line " + std::to_string(plan_.file_lines) + " " + what + ".",
                         "Write the plan anew, or open another file."};
    }

    /// Reads the words up to the end of the line; false where there are none. A number that ends with the file is cut
    /// off.
    bool words(Words& words) {
        words.there = 0;
        bool any = false;
        while (at_ < end_ && *at_ != '\n') {
            const char c = *at_ & ~0x20;      // upper case
            if (*at_ == ';' || *at_ == '*') { // a comment, or the checksum of a numbered line
                skip_line();
                break;
            }
            if (*at_ == '(') {
                while (at_ < end_ && *at_ != ')' && *at_ != '\n') ++at_;
                if (at_ < end_ && *at_ == ')') ++at_;
                continue;
            }
            if (*at_ == '\0') return refuse("holds bytes that no text has"), false;
            ++at_;
            if (c < 'A' || c > 'Z' || !std::isalpha(static_cast<unsigned char>(at_[-1]))) continue;
            while (at_ < end_ && *at_ == ' ') ++at_;
            const char* from = at_ < end_ && *at_ == '+' ? at_ + 1 : at_;
            double number = 0;
            const auto [rest, error] = std::from_chars(from, end_, number, std::chars_format::fixed);
            if (error == std::errc::result_out_of_range) return refuse("has a number that is too large"), false;
            if (error != std::errc() || !std::isfinite(number)) { // "E" alone, "nan"
                if (is_text(c, words)) return skip_line(), any;   // "M117 a word"
                continue;
            }
            at_ = rest;
            if (at_ >= end_ && (c == 'X' || c == 'Y' || c == 'Z' || c == 'E')) return false; // it may go on: cut off
            words.value[size_t(c - 'A')] = number;
            words.there |= 1u << (c - 'A');
            any = true;
        }
        return any;
    }
    /// Commands that are followed by words for people or by parts of another language.
    static bool is_text(char letter, const Words& words) {
        return letter != 'G' && letter != 'M' && words.has('M') && !words.has('G');
    }
    void skip_line() {
        while (at_ < end_ && *at_ != '\n') ++at_;
    }

    void line() {
        Words w;
        const bool any = words(w);
        if (at_ < end_ && *at_ == '\n') ++at_;
        if (wrong_ || !any) return;
        if (w.has('T') && !w.has('M')) {
            tool_ = uint8_t(std::clamp(w.of('T'), 0.0, 255.0));
            plan_.tools = std::max<size_t>(plan_.tools, size_t(tool_) + 1);
        }
        if (w.has('G')) return prepare(w);
        if (w.has('M')) machine(w);
    }

    /// The number of a command; one that none has for what is no such number.
    static int number_of(double code) { return std::fabs(code) < 1e6 ? int(code) : -1; }

    void machine(const Words& w) {
        switch (number_of(w.of('M'))) {
        case 82:
            relative_e_ = false;
            break;
        case 83:
            relative_e_ = true;
            break;
        case 0:
        case 1:
        case 25:
        case 226:
        case 600:
        case 601:
            plan_.pauses.push_back(plan_.moves.size());
            break;
        default:
            ++plan_.passed_over;
        }
    }

    void prepare(const Words& w) {
        const double code = w.of('G');
        if (code == 0 || code == 1) return move(w);
        if (code == 2 || code == 3) return arc(w, code == 2);
        switch (number_of(code)) {
        case 4:
            if (const double waits = w.of('S') + w.of('P') / 1000; waits > 0) plan_.waits_s += std::min(waits, 86400.0);
            break;
        case 20:
            unit_ = inch_mm, plan_.inches = true;
            break;
        case 21:
            unit_ = 1;
            break;
        case 28:
            home(w);
            break;
        case 90:
            relative_ = false, relative_e_ = false;
            break;
        case 91:
            relative_ = true, relative_e_ = true;
            break;
        case 92:
            set_anew(w);
            break;
        default:
            ++plan_.passed_over;
        }
    }

    void home(const Words& w) {
        const bool all = !w.has('X') && !w.has('Y') && !w.has('Z');
        for (int k = 0; k < 3; ++k)
            if (all || w.has("XYZ"[k])) place_[k] = offset_[k] = 0;
    }
    void set_anew(const Words& w) {
        const bool all = !w.has('X') && !w.has('Y') && !w.has('Z') && !w.has('E');
        for (int k = 0; k < 3; ++k)
            if (all || w.has("XYZ"[k])) offset_[k] = place_[k] - w.of("XYZ"[k]) * unit_;
        if (all || w.has('E')) e_ = w.of('E') * unit_;
    }

    /// Where the words lead; false when that is nowhere.
    bool goal(const Words& w, Vec3& to, double& extruded) {
        to = place_;
        for (int k = 0; k < 3; ++k)
            if (w.has("XYZ"[k])) to[k] = (relative_ ? place_[k] : offset_[k]) + w.of("XYZ"[k]) * unit_;
        extruded = 0;
        if (w.has('E')) {
            const double e = w.of('E') * unit_;
            extruded = relative_e_ ? e : e - e_;
            e_ = relative_e_ ? e_ + e : e;
        }
        if (w.has('F')) speed_ = std::max(0.0, w.of('F') * unit_ / 60);
        // What is no number any more, after too large ones, is refused too.
        if (!to.allFinite() || to.cwiseAbs().maxCoeff() > farthest_mm || !(std::fabs(extruded) <= farthest_mm) ||
            !(speed_ <= farthest_mm))
            return refuse("leads farther than 100 m"), false;
        return true;
    }
    void add(const Vec3& to, double extruded) {
        if (plan_.moves.size() >= most_moves) return refuse("is beyond 20 million moves");
        plan_.filament_mm += extruded;
        plan_.moves.push_back({to.cast<float>(), float(extruded), float(speed_), tool_});
        place_ = to;
    }
    void move(const Words& w) {
        Vec3 to;
        double extruded = 0;
        if (!goal(w, to, extruded)) return;
        if (to == place_ && extruded == 0) return; // a speed alone
        add(to, extruded);
    }
    void arc(const Words& w, bool clockwise) {
        Vec3 to;
        double extruded = 0;
        const Vec3 from = place_;
        if (!goal(w, to, extruded)) return;
        Vec2 centre = from.head<2>() + unit_ * Vec2(w.of('I'), w.of('J'));
        if (w.has('R')) {
            const Vec2 chord = (to - from).head<2>();
            const double r = std::fabs(w.of('R') * unit_), half = chord.norm() / 2;
            if (!(half > 0) || half > r * 1.001) return refuse("has an arc whose radius does not reach");
            const double out = std::sqrt(std::max(0.0, r * r - half * half));
            Vec2 side(-chord.y(), chord.x());
            side.normalize();
            centre = (from + to).head<2>() / 2 + side * out * (clockwise == (w.of('R') > 0) ? -1 : 1);
        } else if (!w.has('I') && !w.has('J')) {
            return refuse("has an arc without a centre");
        }
        const Vec2 a = from.head<2>() - centre, b = to.head<2>() - centre;
        const double r = a.norm();
        if (!(r > 1e-6 && r < 1e12)) return refuse("has an arc without a radius that makes sense");
        if (std::fabs(b.norm() - r) > std::max(0.05, 0.02 * r))
            return refuse("has an arc that does not end on its circle");
        double sweep = std::atan2(a.x() * b.y() - a.y() * b.x(), a.dot(b));
        if (clockwise && sweep >= -1e-9) sweep -= 2 * std::numbers::pi;
        if (!clockwise && sweep <= 1e-9) sweep += 2 * std::numbers::pi;
        const double chord = 2 * std::acos(std::max(0.0, 1 - arc_within_mm / std::max(r, arc_within_mm)));
        const auto parts = std::clamp<size_t>(size_t(std::ceil(std::fabs(sweep) / std::max(chord, 1e-3))), 1, 20'000);
        for (size_t i = 1; i <= parts && !wrong_; ++i) {
            const double share = double(i) / double(parts);
            const Vec2 p = centre + Eigen::Rotation2Dd(sweep * share) * a;
            if (!(p.cwiseAbs().maxCoeff() <= farthest_mm)) return refuse("leads farther than 100 m");
            const Vec3 there(p.x(), p.y(), from.z() + share * (to.z() - from.z()));
            add(i == parts ? to : there, extruded / double(parts));
        }
    }

    const char *at_, *end_;
    const Task& task_;
    PrintPlan plan_;
    std::optional<Problem> wrong_;
    Vec3 place_ = Vec3::Zero(), offset_ = Vec3::Zero();
    double e_ = 0, speed_ = 0, unit_ = 1;
    bool relative_ = false, relative_e_ = false;
    uint8_t tool_ = 0;
};

} // namespace

Expected<PrintPlan> read_gcode(const std::string& bytes, const Task& task) {
    if (bytes.empty()) return problem(ProblemCode::File, "The file is empty.", "Choose another.");
    return GcodeReader(bytes, task).read();
}

} // namespace lp
