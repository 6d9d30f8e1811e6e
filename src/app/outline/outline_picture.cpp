// Files and pictures in an outline: brought in, seen below what is drawn, scaled by a true length.
#include "app/file_filter.h"
#include "app/outline/outline_editor.h"
#include "app/run_aside.h"
#include "app/view/view_widget.h"
#include "base/text.h"
#include "formats/flat_file.h"
#include "formats/formats.h"
#include "outline/picture_trace.h"
#include "project/recipe.h"
#include <QFileDialog>
#include <QFileInfo>
#include <QImageReader>
#include <QPainter>

namespace lp {
namespace {

constexpr int most_side_px = 1600; ///< finer detail than that of a photo is noise
constexpr double usual_side_mm = 100;

/// Any picture as a grey one: turned upright as it says itself, light where it is see-through, not larger than is
/// traced well.
Expected<std::string> grey_picture(const QString& path) {
    QImageReader reader(path);
    reader.setAutoTransform(true);
    const QSize size = reader.size();
    if (std::max(size.width(), size.height()) > most_side_px)
        reader.setScaledSize(size.scaled(most_side_px, most_side_px, Qt::KeepAspectRatio));
    QImage image = reader.read();
    if (image.isNull())
        return problem(ProblemCode::File,
                       "It is no picture that can be read: " + reader.errorString().toStdString() + ".",
                       "Bring in a PNG or JPEG, or a drawing: " + read_titles(true) + ".");
    if (image.hasAlphaChannel()) {
        QImage paper(image.size(), QImage::Format_RGB32);
        paper.fill(Qt::white);
        QPainter(&paper).drawImage(0, 0, image);
        image = paper;
    }
    image = image.convertToFormat(QImage::Format_Grayscale8);
    std::string pgm = "P5\n" + std::to_string(image.width()) + " " + std::to_string(image.height()) + "\n255\n";
    for (int y = 0; y < image.height(); ++y)
        pgm.append(reinterpret_cast<const char*>(image.constScanLine(y)), size_t(image.width()));
    return pgm;
}

struct ReadDrawing {
    std::string name, bytes;
    FlatPaths paths;
};

/// An SVG or DXF as it is, everything else as a picture.
Expected<ReadDrawing> read_drawing(const QString& path) {
    ReadDrawing read;
    const QFileInfo file(path);
    read.name = file.fileName().toStdString();
    auto bytes = read_file(path.toStdString());
    if (!bytes) return pass_on(bytes);
    read.bytes = std::move(*bytes);
    const auto format = format_of(read.name, read.bytes, true);
    if (!format || (*format)->id == std::string("pgm")) {
        auto grey = grey_picture(path);
        if (!grey) return pass_on(grey);
        read.bytes = std::move(*grey);
        read.name = file.completeBaseName().toStdString() + ".pgm";
    }
    auto paths = read_flat(read.name, read.bytes);
    if (!paths) return pass_on(paths);
    read.paths = std::move(*paths);
    return read;
}

} // namespace

void OutlineEditor::choose_file() {
    const QString file =
        QFileDialog::getOpenFileName(view_, "Bring in a drawing or a picture", {}, drawings_and_pictures());
    if (!file.isEmpty()) bring_in(file);
}

void OutlineEditor::bring_in(const QString& path) {
    const StepId drawing_in = step_;
    auto read = run_aside([&] { return read_drawing(path); });
    if (step_ != drawing_in) return; // closed while it was read
    if (!read)
        return session_->say(QFileInfo(path).fileName() + ": " + QString::fromStdString(read.error().text()), true);
    auto shared = std::make_shared<const std::string>(std::move(read->bytes));
    const std::string file = free_file_name(*session_->project(), read->name, *shared);
    // A picture has no size: it is laid into the middle of what is seen, as large as a hand.
    double scale = 1;
    Vec2 at = Vec2::Zero();
    if (const auto& picture = read->paths.picture) {
        const Vec2 size = Vec2(picture->width, picture->height) * picture_pixel_mm;
        scale = usual_side_mm / size.maxCoeff();
        const Vec2 middle = to_drawing(QPointF(view_->width() / 2.0, view_->height() / 2.0));
        at = Vec2(std::round(middle.x()), std::round(middle.y())) - size / 2 * scale;
    }
    Drawing next = drawing_;
    DrawingId id = next.add(ElementKind::Import, {next.add_point(at)});
    next.element(id)->texts = {{"file", file}, {"scale", format_number(scale, 6)}, {"angle", "0 deg"}};
    Edit edit;
    edit.parts = {AddImport{file, shared}, SetDrawing{part_, step_, next}};
    edit.sentence = "Brought " + read->name + " into the outline";
    if (session_->document().edit(edit)) return;
    if (read->paths.picture) select(id, false);
    size_t shapes = read->paths.paths.size();
    if (read->paths.picture) shapes = read->paths.paths.front().contours.size();
    QString said =
        QString("Brought in %1: %2%3.")
            .arg(QString::fromStdString(read->name), QString::fromStdString(counted(shapes, "path", "paths")),
                 read->paths.picture ? QString() : ", in " + QString::fromStdString(read->paths.unit));
    for (const FlatFinding& f : read->paths.findings) said += " " + QString::fromStdString(f.says);
    session_->say(said, !read->paths.findings.empty() && !read->paths.picture);
}

bool OutlineEditor::is_picture(const Element& e) const {
    if (e.kind != ElementKind::Import) return false;
    const auto found = session_->project()->imports.find(element_text(e, "file"));
    return found != session_->project()->imports.end() && found->second && found->second->compare(0, 2, "P5") == 0;
}

/// Below what is drawn, pale: the trace is judged against it.
void OutlineEditor::paint_pictures(QPainter& p) {
    for (const Element& e : drawing_.elements) {
        if (!is_picture(e)) continue;
        const auto& bytes = session_->project()->imports.at(element_text(e, "file"));
        auto& [of, image] = pictures_[e.id];
        if (of != bytes) {
            of = bytes;
            image.loadFromData(reinterpret_cast<const uchar*>(bytes->data()), int(bytes->size()), "PGM");
        }
        auto scale = evaluate_expression(element_text(e, "scale"), QuantityKind::Number, values());
        auto angle = evaluate_expression(element_text(e, "angle"), QuantityKind::Angle, values());
        if (image.isNull() || !scale || !angle) continue;
        Eigen::Affine2d place = Eigen::Affine2d::Identity();
        const auto origin = drawing_.points.find(e.points[0]);
        if (origin != drawing_.points.end()) place.translate(origin->second);
        place.rotate(radians(*angle));
        place.scale(*scale * picture_pixel_mm);
        const double w = image.width(), h = image.height();
        QPolygonF from, to;
        for (const Vec2& corner : {Vec2(0, h), Vec2(w, h), Vec2(w, 0), Vec2(0, 0)}) {
            from << QPointF(corner.x(), h - corner.y());
            to << to_view(place * corner);
        }
        QTransform onto;
        if (!QTransform::quadToQuad(from, to, onto)) continue;
        constexpr double paleness = 0.45;
        p.save();
        p.setTransform(onto, true);
        p.setOpacity(paleness);
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.drawImage(0, 0, image);
        p.restore();
    }
}

/// The chosen file or picture, or the last that was brought in.
bool OutlineEditor::choose_what_to_scale() {
    scaled_ = 0;
    for (const Element& e : drawing_.elements)
        if (e.kind == ElementKind::Import && (!scaled_ || selected_.count(e.id))) scaled_ = e.id;
    if (!scaled_) session_->say("There is no picture or file in this outline to scale. Bring one in first.", true);
    return scaled_ != 0;
}

void OutlineEditor::ask_true_length() {
    const Vec2 from = clicks_[0].at, to = clicks_[1].at;
    clicks_.clear();
    open_box(
        to_view(to), {}, "true length between them",
        [this, from, to](const QString& text) {
            auto next = set_true_length(drawing_, scaled_, from, to, text.toStdString(), values());
            if (!next) return say_wrong(next.error());
            const DrawingId scaled = scaled_;
            if (!commit(*next, "Scaled to a true length of " + text)) return;
            set_tool(DrawTool::Select);
            select(scaled, false);
        },
        QuantityKind::Length);
}

} // namespace lp
