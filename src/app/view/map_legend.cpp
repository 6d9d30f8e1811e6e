#include "app/view/map_legend.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "base/inches.h"
#include "base/quantity.h"
#include <QMouseEvent>
#include <QPainter>
#include <QTimer>

namespace lp {

using theme::Role;

const SceneBody* MapLegend::mapped() const {
    for (const SceneBody& b : view_->scene().bodies)
        if (b.map) return &b;
    return nullptr;
}

namespace {

/// The value where a ray meets a facet, between those at its corners; nothing where one has none.
std::optional<double> value_in(const SurfaceMap& map, const TriMesh& mesh, size_t facet, const Vec3& p) {
    const Vec3 a = mesh.corner(facet, 0), b = mesh.corner(facet, 1), c = mesh.corner(facet, 2);
    const Vec3 n = mesh.area_vector(facet);
    const double whole = n.squaredNorm();
    double share[3] = {(c - b).cross(p - b).dot(n) / whole, (a - c).cross(p - c).dot(n) / whole, 0};
    share[2] = 1 - share[0] - share[1];
    double sum = 0;
    for (size_t k = 0; k < 3; ++k) {
        const double value = (*map.values)[3 * facet + k];
        if (value < 0) return std::nullopt;
        sum += share[k] * value;
    }
    return sum;
}

} // namespace

std::optional<double> MapLegend::value_at(const QPointF& at) {
    std::vector<const SceneBody*> mapped;
    std::vector<PlacedShape> shapes;
    for (const SceneBody& body : view_->scene().bodies) {
        if (!body.map) continue;
        mapped.push_back(&body);
        shapes.push_back({body.shape, body.place});
    }
    rays_.set(std::move(shapes));
    const RayScene* rays = rays_.get();
    if (!rays) return std::nullopt;
    const Camera::Ray ray = view_->camera().ray(at, view_->size());
    double from = 0;
    if (const auto& section = view_->scene().section) { // what is cut away is not there
        const Vec3 n = section->head<3>();
        const double here = n.dot(ray.origin) + section->w(), speed = n.dot(ray.direction);
        if (here < 0 && speed <= 0) return std::nullopt;
        if (here < 0) from = -here / speed;
    }
    const RayHit hit = rays->cast(ray.origin, ray.direction, from);
    if (!hit) return std::nullopt;
    const SceneBody& body = *mapped[hit.mesh];
    return value_in(*body.map, body.shape->mesh, hit.triangle,
                    body.place.inverse() * Vec3(ray.origin + hit.t * ray.direction));
}

/// The value under the pointer; where the rays are still being made it comes when they are there.
void MapLegend::read() {
    under_ = value_at(at_);
    view_->update();
    if (!rays_.making() || reads_again_) return;
    reads_again_ = true;
    QTimer::singleShot(30, view_, [this] {
        reads_again_ = false;
        if (mapped()) read();
    });
}

bool MapLegend::move(QMouseEvent* event) {
    if (!mapped()) {
        rays_.set({});
        under_.reset();
        return false;
    }
    at_ = event->position();
    under_.reset();
    if (event->buttons() == Qt::NoButton) read();
    view_->update();
    return false; // the view still turns and hovers
}

namespace {

QString number(const SurfaceMap& map, double value) {
    if (map.unit == "mm" && inches_are_shown()) return QString::number(value / inch_mm, 'f', 3);
    return QString::fromStdString(format_fixed(value, map.decimals));
}

QString unit_of(const SurfaceMap& map) {
    return map.unit == "mm" && inches_are_shown() ? QString("in") : QString::fromStdString(map.unit);
}

void paint_hatch(QPainter& p, const QRectF& where) {
    p.save();
    p.setClipRect(where);
    p.setPen(QPen(theme::colour(Role::HangingHatch), 2));
    for (double y = where.top() - where.width(); y < where.bottom(); y += 7)
        p.drawLine(QPointF(where.left(), y + where.width()), QPointF(where.right(), y));
    p.restore();
}

/// The colours of the scale from its low end, at the foot, to its high end.
void paint_bar(QPainter& p, const SurfaceMap& map, const QRectF& bar) {
    const double limit = bar.bottom() - bar.height() * map.limit / map.high;
    if (map.scale == SurfaceMap::Scale::Even) {
        for (int y = 0; y < int(bar.height()); ++y)
            p.fillRect(QRectF(bar.left(), bar.bottom() - y - 1, bar.width(), 1.5), theme::map_colour(y / bar.height()));
        if (map.limit > 0) paint_hatch(p, QRectF(QPointF(bar.left(), limit), bar.bottomRight()));
        return;
    }
    p.fillRect(bar, theme::colour(Role::Mat));
    const QRectF beyond(bar.topLeft(), QPointF(bar.right(), limit));
    p.fillRect(beyond, theme::colour(Role::Hanging));
    paint_hatch(p, beyond);
}

/// Places of the scale that carry a number.
std::vector<double> ticks(const SurfaceMap& map) {
    if (map.scale == SurfaceMap::Scale::Hanging) return {map.low, map.limit, map.high};
    std::vector<double> at;
    double every = map.contour * (map.high / map.contour > 12 ? 2 : 1);
    for (double v = map.low; v <= map.high + 1e-9; v += every) at.push_back(v);
    return at;
}

} // namespace

void MapLegend::paint(QPainter& p) {
    const SceneBody* body = mapped();
    if (!body) return;
    const SurfaceMap& map = *body->map;
    QRectF box(view_->width() - 118.0, view_->height() - 240.0, 104, 226);
    p.setPen(theme::colour(Role::Line));
    p.setBrush(theme::colour(Role::Card));
    p.drawRoundedRect(box, 4, 4);
    p.setPen(theme::colour(Role::Ink));
    p.setFont(theme::words(12.5, QFont::Bold));
    p.drawText(QRectF(box.left() + 10, box.top() + 6, 90, 18), Qt::AlignVCenter,
               QString::fromStdString(map.title) + ", " + unit_of(map));
    QRectF bar(box.left() + 12, box.top() + 38, 18, box.height() - 52);
    paint_bar(p, map, bar);
    auto height_of = [&](double v) { return bar.bottom() - bar.height() * (v - map.low) / (map.high - map.low); };
    p.setFont(theme::numbers(11));
    for (double v : ticks(map)) {
        double y = height_of(v);
        p.setPen(theme::colour(Role::Ink));
        p.drawLine(QPointF(bar.right(), y), QPointF(bar.right() + 4, y));
        p.setPen(theme::colour(Role::SoftInk));
        p.drawText(QRectF(bar.right() + 8, y - 8, 50, 16), Qt::AlignVCenter, number(map, v));
    }
    p.setPen(QPen(theme::colour(Role::Ink), 1));
    for (double v = map.low + map.contour / 2; map.contour > 0 && v <= map.high; v += map.contour)
        p.drawLine(QPointF(bar.left(), height_of(v)), QPointF(bar.right(), height_of(v)));
    if (!under_ || !view_->underMouse()) return;
    QString words = number(map, *under_) + (map.unit == "°" ? "" : " ") + unit_of(map);
    p.setFont(theme::numbers(12.5));
    QRectF note(at_ + QPointF(14, -28), QSizeF(p.fontMetrics().horizontalAdvance(words) + 14, 23));
    p.setPen(theme::colour(Role::Ink));
    p.setBrush(theme::colour(Role::Field));
    p.drawRoundedRect(note, 4, 4);
    p.drawText(note, Qt::AlignCenter, words);
}

} // namespace lp
