#include "app/view/map_legend.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "base/inches.h"
#include "base/quantity.h"
#include <QMouseEvent>
#include <QPainter>

namespace lp {

using theme::Role;

const SceneBody* MapLegend::mapped() const {
    for (const SceneBody& b : view_->scene().bodies)
        if (b.map) return &b;
    return nullptr;
}

std::optional<double> MapLegend::value_at(const QPointF& at) {
    const SceneBody* body = mapped();
    if (!body) return std::nullopt;
    if (built_for_ != body->shape) {
        rays_ = std::make_unique<RayScene>();
        rays_->add(body->shape->mesh);
        rays_->commit();
        built_for_ = body->shape;
    }
    Camera::Ray ray = view_->camera().ray(at, view_->size());
    Transform back = body->place.inverse();
    Vec3 origin = back * ray.origin, way = back.linear() * ray.direction;
    double from = 0;
    if (const auto& section = view_->scene().section) { // what is cut away is not there
        Vec3 n = section->head<3>();
        double here = n.dot(ray.origin) + section->w(), speed = n.dot(ray.direction);
        if (here < 0 && speed <= 0) return std::nullopt;
        if (here < 0) from = -here / speed;
    }
    RayHit hit = rays_->cast(origin, way, from);
    if (!hit) return std::nullopt;
    Vec3 p = origin + hit.t * way;
    const TriMesh& mesh = body->shape->mesh;
    Vec3 a = mesh.corner(hit.triangle, 0), b = mesh.corner(hit.triangle, 1), c = mesh.corner(hit.triangle, 2);
    Vec3 n = mesh.area_vector(hit.triangle);
    double whole = n.squaredNorm();
    double share[3] = {(c - b).cross(p - b).dot(n) / whole, (a - c).cross(p - c).dot(n) / whole, 0};
    share[2] = 1 - share[0] - share[1];
    double gap = 0;
    for (size_t k = 0; k < 3; ++k) {
        double value = (*body->map->values)[3 * size_t(hit.triangle) + k];
        if (value < 0) return std::nullopt;
        gap += share[k] * value;
    }
    return gap;
}

bool MapLegend::move(QMouseEvent* event) {
    if (!mapped()) {
        rays_.reset();
        built_for_.reset();
        under_.reset();
        return false;
    }
    at_ = event->position();
    under_ = event->buttons() == Qt::NoButton ? value_at(at_) : std::nullopt;
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

/// The colours of the scale from its low end, at the foot, to its high end.
void paint_bar(QPainter& p, const SurfaceMap& map, const QRectF& bar) {
    if (map.scale == SurfaceMap::Scale::Even) {
        for (int y = 0; y < int(bar.height()); ++y)
            p.fillRect(QRectF(bar.left(), bar.bottom() - y - 1, bar.width(), 1.5), theme::map_colour(y / bar.height()));
        return;
    }
    const double limit = bar.bottom() - bar.height() * map.limit / map.high;
    p.fillRect(bar, theme::colour(Role::Mat));
    p.save();
    p.setClipRect(QRectF(bar.left(), bar.top(), bar.width(), limit - bar.top()));
    p.fillRect(bar, theme::colour(Role::Hanging));
    p.setPen(QPen(theme::colour(Role::HangingHatch), 2));
    for (double y = bar.top() - bar.width(); y < limit; y += 7)
        p.drawLine(QPointF(bar.left(), y + bar.width()), QPointF(bar.right(), y));
    p.restore();
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
    if (!under_) return;
    QString words = number(map, *under_) + (map.unit == "°" ? "" : " ") + unit_of(map);
    p.setFont(theme::numbers(12.5));
    QRectF note(at_ + QPointF(14, -28), QSizeF(p.fontMetrics().horizontalAdvance(words) + 14, 23));
    p.setPen(theme::colour(Role::Ink));
    p.setBrush(theme::colour(Role::Field));
    p.drawRoundedRect(note, 4, 4);
    p.drawText(note, Qt::AlignCenter, words);
}

} // namespace lp
