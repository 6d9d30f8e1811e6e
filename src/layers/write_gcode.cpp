#include "layers/write_gcode.h"
#include <charconv>
#include <cmath>
#include <numbers>

namespace lp {
namespace {

class Writer {
  public:
    Writer(const PartLines& lines, const GcodeOptions& options) : lines_(lines), options_(options) {
        section_ = std::numbers::pi * options.filament_mm * options.filament_mm / 4;
    }

    Expected<std::string> run(const Task& task) {
        head();
        size_t stop = 0;
        for (size_t k = 0; k < lines_.layers.size(); ++k) {
            if (task.stopped()) return cancelled();
            task.tell("Writing the plan", double(k) / double(lines_.layers.size()));
            for (; stop < options_.stops.size() && options_.stops[stop].layer <= k; ++stop)
                text_ += "M0 (" + in_one_line(options_.stops[stop].words) + ")\n";
            layer(k);
        }
        return std::move(text_);
    }

  private:
    /// Brackets and line breaks would end the comment.
    static std::string in_one_line(std::string words) {
        for (char& c : words)
            if (c == '(' || c == ')' || c == ';' || (unsigned char)(c) < ' ') c = ' ';
        return words;
    }
    void number(char letter, double value, int decimals) {
        char digits[40];
        const auto end = std::to_chars(digits, digits + sizeof digits, value, std::chars_format::fixed, decimals).ptr;
        text_ += ' ';
        text_ += letter;
        text_.append(digits, size_t(end - digits));
    }
    void place(const Vec2& at) {
        number('X', at.x(), 4);
        number('Y', at.y(), 4);
    }
    void head() {
        text_ = "; Plan of a practice printer: NOT FOR A MACHINE\n";
        if (!options_.title.empty()) text_ += "; " + in_one_line(options_.title) + "\n";
        text_ += "; millimetres from where the part stands; nothing is heated, nothing is homed\n"
                 "M0 (a practice plan: not for a machine)\nG21\nG90\nM83\n";
    }
    void layer(size_t k) {
        const double top = lines_.bottom(k) + lines_.thickness(k) + double(lines_.raft) * lines_.heights.layer_mm;
        text_ += "; layer " + std::to_string(k + 1) + (k < lines_.raft ? " (raft)" : "") + "\n";
        text_ += "G0";
        number('Z', top, 4);
        number('F', options_.card.hop_speed * 60, 0);
        text_ += '\n';
        const LayerLines& laid = lines_.layers[k];
        const LineKind none = LineKind(line_kinds);
        LineKind kind = none;
        for (const PlannedLine& line : laid.lines) {
            if (line.count < 2) continue;
            if (line.kind != kind) {
                kind = line.kind;
                text_ += std::string("; ") + line_kind_words(kind) + "\n";
            }
            hop(laid.places[line.first]);
            lay(laid, line);
        }
    }
    void hop(const Vec2& to) {
        const double way = (to - at_).norm();
        if (way < 1e-4) return;
        const bool back = way > options_.card.draw_back_from_mm && any_;
        auto draw = [&](double mm) {
            text_ += "G1";
            number('E', mm, 3);
            number('F', options_.card.draw_back_speed * 60, 0);
            text_ += '\n';
        };
        if (back) draw(-options_.card.draw_back_mm);
        text_ += "G0";
        place(to);
        number('F', options_.card.hop_speed * 60, 0);
        text_ += '\n';
        if (back) draw(options_.card.draw_back_mm);
        at_ = to;
    }
    void lay(const LayerLines& laid, const PlannedLine& line) {
        const double filament = double(line.width_mm) * double(line.height_mm) / section_;
        bool first = true;
        for (uint32_t i = 1; i < line.count + (line.closed ? 1 : 0); ++i) {
            const Vec2& to = laid.places[line.first + i % line.count];
            const double length = (to - at_).norm();
            if (length < 1e-6) continue;
            text_ += "G1";
            place(to);
            number('E', length * filament, 6);
            if (std::exchange(first, false)) number('F', double(line.speed_mm_s) * 60, 1);
            text_ += '\n';
            at_ = to;
            any_ = true;
        }
    }

    const PartLines& lines_;
    const GcodeOptions& options_;
    double section_ = 1;
    Vec2 at_ = Vec2::Zero();
    bool any_ = false; ///< something is laid: before that nothing is drawn back
    std::string text_;
};

} // namespace

Expected<std::string> write_gcode(const PartLines& lines, const GcodeOptions& options, const Task& task) {
    return Writer(lines, options).run(task);
}

} // namespace lp
