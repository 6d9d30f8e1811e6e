#include "formats/svg_path.h"
#include <charconv>
#include <cmath>

namespace lp {
namespace {

class PathParser {
  public:
    explicit PathParser(const std::string& data) : d_(data) {}

    SvgPath run() {
        skip();
        if (i_ < d_.size() && d_[i_] != 'M' && d_[i_] != 'm') return stop();
        while (i_ < d_.size()) {
            char c = d_[i_];
            if (std::string("MmLlHhVvCcSsQqTtAaZz").find(c) == std::string::npos) return stop();
            ++i_;
            if (!command(c)) return stop();
            skip();
        }
        drop_bare();
        return std::move(path_);
    }

  private:
    SvgPath stop() {
        path_.complete = false;
        path_.stopped_at = i_;
        drop_bare();
        return std::move(path_);
    }
    /// A move alone draws nothing.
    void drop_bare() {
        std::erase_if(path_.subpaths, [](const SvgSubpath& s) { return s.curves.empty(); });
    }

    void skip() {
        while (i_ < d_.size() && (std::isspace(static_cast<unsigned char>(d_[i_])) || d_[i_] == ',')) ++i_;
    }
    bool number(double& value) {
        skip();
        size_t from = i_ + (i_ < d_.size() && d_[i_] == '+');
        auto [end, error] = std::from_chars(d_.data() + from, d_.data() + d_.size(), value, std::chars_format::general);
        if (error != std::errc() || !std::isfinite(value)) return false;
        i_ = size_t(end - d_.data());
        return true;
    }
    bool point(Vec2& p, bool relative) {
        if (!number(p.x()) || !number(p.y())) return false;
        if (relative) p += now_;
        return true;
    }
    bool flag(bool& value) {
        skip();
        if (i_ >= d_.size() || (d_[i_] != '0' && d_[i_] != '1')) return false;
        value = d_[i_++] == '1';
        return true;
    }
    bool another() {
        skip();
        return i_ < d_.size() &&
               (std::isdigit(static_cast<unsigned char>(d_[i_])) || d_[i_] == '-' || d_[i_] == '+' || d_[i_] == '.');
    }

    void begin(const Vec2& at) {
        path_.subpaths.emplace_back();
        start_ = now_ = at;
    }
    void add(Curve curve, const Vec2& to) {
        if (path_.subpaths.empty() || path_.subpaths.back().closed) begin(now_);
        path_.subpaths.back().curves.push_back(std::move(curve));
        now_ = to;
    }
    void line(const Vec2& to) {
        if ((to - now_).norm() > 0) add(Curve::line(now_, to), to);
    }

    bool command(char c) {
        bool relative = std::islower(static_cast<unsigned char>(c));
        char kind = char(std::toupper(static_cast<unsigned char>(c)));
        if (kind == 'Z') {
            if (!path_.subpaths.empty()) {
                line(start_);
                path_.subpaths.back().closed = true;
                now_ = start_;
            }
            last_ = 'Z';
            return true;
        }
        bool first = true;
        do {
            if (!segment(kind, relative, first)) return false;
            last_ = kind;
            first = false;
        } while (another());
        return true;
    }

    bool segment(char kind, bool relative, bool first) {
        Vec2 a, b, to;
        switch (kind) {
        case 'M':
            if (!point(to, relative)) return false;
            first ? begin(to) : line(to);
            return true;
        case 'L':
            if (!point(to, relative)) return false;
            line(to);
            return true;
        case 'H':
        case 'V': {
            double v;
            if (!number(v)) return false;
            to = now_;
            int axis = kind == 'V';
            to[axis] = relative ? now_[axis] + v : v;
            line(to);
            return true;
        }
        case 'C':
            if (!point(a, relative) || !point(b, relative) || !point(to, relative)) return false;
            break;
        case 'S':
            a = last_ == 'C' || last_ == 'S' ? Vec2(2 * now_ - control_) : now_;
            if (!point(b, relative) || !point(to, relative)) return false;
            break;
        case 'Q':
            if (!point(a, relative) || !point(to, relative)) return false;
            control_ = a;
            add(Curve::quadratic(now_, a, to), to);
            return true;
        case 'T':
            a = last_ == 'Q' || last_ == 'T' ? Vec2(2 * now_ - control_) : now_;
            if (!point(to, relative)) return false;
            control_ = a;
            add(Curve::quadratic(now_, a, to), to);
            return true;
        case 'A':
            return arc(relative);
        }
        control_ = b;
        add(Curve::cubic(now_, a, b, to), to);
        return true;
    }

    bool arc(bool relative) {
        double rx, ry, turn;
        bool large, sweep;
        Vec2 to;
        if (!number(rx) || !number(ry) || !number(turn) || !flag(large) || !flag(sweep) || !point(to, relative))
            return false;
        rx = std::fabs(rx), ry = std::fabs(ry);
        if ((to - now_).norm() == 0) return true;
        if (rx == 0 || ry == 0) {
            line(to);
            return true;
        }
        // F.6.5: from ends to centre.
        double phi = radians(turn);
        Eigen::Rotation2Dd back(-phi), forth(phi);
        Vec2 p = back * Vec2((now_ - to) / 2);
        double over = p.x() * p.x() / (rx * rx) + p.y() * p.y() / (ry * ry);
        if (over > 1) rx *= std::sqrt(over), ry *= std::sqrt(over);
        double top = rx * rx * ry * ry - rx * rx * p.y() * p.y() - ry * ry * p.x() * p.x();
        double factor = std::sqrt(std::max(0.0, top / (rx * rx * p.y() * p.y() + ry * ry * p.x() * p.x())));
        if (large == sweep) factor = -factor;
        Vec2 c(factor * rx * p.y() / ry, -factor * ry * p.x() / rx), centre = forth * c + (now_ + to) / 2;
        double from = std::atan2((p.y() - c.y()) / ry, (p.x() - c.x()) / rx);
        double until = std::atan2((-p.y() - c.y()) / ry, (-p.x() - c.x()) / rx);
        double span = std::remainder(until - from, 2 * std::numbers::pi);
        if (sweep && span < 0) span += 2 * std::numbers::pi;
        if (!sweep && span > 0) span -= 2 * std::numbers::pi;
        if (std::fabs(rx - ry) < 1e-12 * rx)
            add(Curve::arc(centre, rx, from + phi, span).fitted(now_, to), to);
        else if (rx > ry)
            add(Curve::ellipse(centre, forth * Vec2(rx, 0), ry, from, span), to);
        else // the longer axis is the second one: a quarter turn on
            add(Curve::ellipse(centre, forth * Vec2(0, ry), rx, from - std::numbers::pi / 2, span), to);
        return true;
    }

    const std::string& d_;
    size_t i_ = 0;
    SvgPath path_;
    Vec2 now_ = Vec2::Zero(), start_ = Vec2::Zero(), control_ = Vec2::Zero();
    char last_ = 0;
};

} // namespace

SvgPath parse_svg_path(const std::string& data) {
    return PathParser(data).run();
}

} // namespace lp
