// What stands in the view of a project with nothing in it: ways to begin, templates, examples, the last projects.
#pragma once
#include <QScrollArea>

namespace lp {

class StartPage : public QScrollArea {
    Q_OBJECT
  public:
    explicit StartPage(QWidget* parent);
    /// Reads the last projects anew.
    void refresh();
    /// In the middle of a view of this size; what has no room is scrolled to.
    void place(const QSize& room);

  signals:
    void block_wanted();
    void outline_wanted();
    void bring_in_wanted();
    void open_wanted();
    void project_wanted(const QString& path);
    void template_wanted(const QString& path);
    void refused(const QString& why);

  protected:
    void showEvent(QShowEvent*) override { refresh(); }

  private:
    void add_ways(class FlowLayout* row);
    void add_templates(class QVBoxLayout* rows);
};

} // namespace lp
