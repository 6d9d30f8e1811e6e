#include "app/view/gap_legend.h"
#include "app/theme/theme.h"
#include "base/quantity.h"
#include <QMouseEvent>
#include <QPainter>

namespace lp {

using theme::Role;

const SceneBody* GapLegend::mapped() const {
    for (const SceneBody& b : view_->scene().bodies)
        if (b.gap_mm) return &b;
    return nullptr;
}

std::optional<double> GapLegend::gap_at(const QPointF& at) {
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
        double value = (*body->gap_mm)[3 * size_t(hit.triangle) + k];
        if (value < 0) return std::nullopt;
        gap += share[k] * value;
    }
    return gap;
}

bool GapLegend::move(QMouseEvent* event) {
    if (!mapped()) {
        rays_.reset();
        built_for_.reset();
        under_.reset();
        return false;
    }
    at_ = event->position();
    under_ = event->buttons() == Qt::NoButton ? gap_at(at_) : std::nullopt;
    view_->update();
    return false; // the view still turns and hovers
}

void GapLegend::paint(QPainter& p) {
    const SceneBody* body = mapped();
    if (!body) return;
    QRectF box(view_->width() - 118.0, view_->height() - 232.0, 104, 218);
    p.setPen(theme::colour(Role::Line));
    p.setBrush(theme::colour(Role::Card));
    p.drawRoundedRect(box, 4, 4);
    p.setPen(theme::colour(Role::Ink));
    p.setFont(theme::words(12.5, QFont::Bold));
    p.drawText(QRectF(box.left() + 10, box.top() + 6, 90, 18), Qt::AlignVCenter, "Gap, mm");
    QRectF bar(box.left() + 12, box.top() + 30, 18, box.height() - 44);
    for (int y = 0; y < int(bar.height()); ++y) // the widest on top
        p.fillRect(QRectF(bar.left(), bar.bottom() - y - 1, bar.width(), 1.5), theme::map_colour(y / bar.height()));
    p.setFont(theme::numbers(11));
    double every = body->gap_contour_mm * (body->gap_top_mm / body->gap_contour_mm > 12 ? 2 : 1);
    for (double v = 0; v <= body->gap_top_mm + 1e-9; v += every) {
        double y = bar.bottom() - bar.height() * v / body->gap_top_mm;
        p.setPen(theme::colour(Role::Ink));
        p.drawLine(QPointF(bar.right(), y), QPointF(bar.right() + 4, y));
        p.setPen(theme::colour(Role::SoftInk));
        p.drawText(QRectF(bar.right() + 8, y - 8, 50, 16), Qt::AlignVCenter,
                   QString::fromStdString(format_fixed(v, 2)));
    }
    for (double v = body->gap_contour_mm / 2; v <= body->gap_top_mm; v += body->gap_contour_mm) { // contours
        double y = bar.bottom() - bar.height() * v / body->gap_top_mm;
        p.setPen(QPen(theme::colour(Role::Ink), 1));
        p.drawLine(QPointF(bar.left(), y), QPointF(bar.right(), y));
    }
    if (!under_) return;
    QString words = QString::fromStdString(format_fixed(*under_, 2)) + " mm";
    p.setFont(theme::numbers(12.5));
    QRectF note(at_ + QPointF(14, -28), QSizeF(p.fontMetrics().horizontalAdvance(words) + 14, 23));
    p.setPen(theme::colour(Role::Ink));
    p.setBrush(theme::colour(Role::Field));
    p.drawRoundedRect(note, 4, 4);
    p.drawText(note, Qt::AlignCenter, words);
}

} // namespace lp
