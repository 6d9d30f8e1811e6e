#include "app/accessible.h"
#include "app/panels/gap_ruler.h"
#include "app/panels/mark_row.h"
#include "app/sheet/shelf.h"
#include "app/sheet/step_row.h"
#include "app/strip/layer_strip.h"
#include "app/view/look_net.h"
#include "app/view/view_widget.h"
#include "app/widgets/tape.h"
#include "app/widgets/value_field.h"
#include <QAccessible>
#include <QAccessibleWidget>

namespace lp {
namespace {

/// A field of a sentence says its number as its value; names and descriptions are the widgets' own.
class Painted : public QAccessibleWidget {
  public:
    Painted(QWidget* widget, QAccessible::Role role) : QAccessibleWidget(widget, role) {}
    QString text(QAccessible::Text what) const override {
        if (what == QAccessible::Value)
            if (auto* field = qobject_cast<ValueField*>(object())) return field->accessibleDescription();
        return QAccessibleWidget::text(what);
    }
};

QAccessibleInterface* interface_of(const QString&, QObject* object) {
    auto* widget = qobject_cast<QWidget*>(object);
    if (!widget) return nullptr;
    using A = QAccessible;
    if (qobject_cast<ValueField*>(object)) return new Painted(widget, A::SpinBox);
    if (qobject_cast<StepRow*>(object)) return new Painted(widget, A::ListItem);
    if (qobject_cast<MarkRow*>(object)) return new Painted(widget, A::ListItem);
    if (qobject_cast<Shelf*>(object)) return new Painted(widget, A::List);
    if (qobject_cast<Tape*>(object)) return new Painted(widget, A::PageTabList);
    if (qobject_cast<GapRuler*>(object) || qobject_cast<LayerStrip*>(object)) return new Painted(widget, A::Slider);
    if (qobject_cast<LookNet*>(object)) return new Painted(widget, A::ToolBar);
    if (qobject_cast<ViewWidget*>(object)) return new Painted(widget, A::Canvas);
    return nullptr;
}

} // namespace

void tell_assistive_programs() {
    static const bool once = (QAccessible::installFactory(interface_of), true);
    (void)once;
}

} // namespace lp
