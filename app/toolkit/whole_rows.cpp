// A cover over the row that does not end within the view; scrolling, which goes by rows, brings it up whole.
#include "toolkit/whole_rows.h"

#include <QAbstractItemView>
#include <QEvent>

namespace {

class RowCover : public QWidget {
 public:
  explicit RowCover(QAbstractItemView* view) : QWidget(view->viewport()), view_(*view) {
    setObjectName("row cover");
    setProperty("row_cover", true);
    setAttribute(Qt::WA_StyledBackground);
    hide();
    view->viewport()->installEventFilter(this);
  }

 protected:
  // Whatever moves rows paints them.
  bool eventFilter(QObject* watched, QEvent* event) override {
    if (event->type() == QEvent::Paint) place();
    return QWidget::eventFilter(watched, event);
  }

 private:
  void place() {
    const QRect seen = view_.viewport()->rect();
    const QRect row = view_.visualRect(view_.indexAt({seen.left() + 2, seen.bottom()}));
    const bool cut = row.isValid() && row.bottom() > seen.bottom() && row.top() > seen.top();
    if (cut) setGeometry(0, row.top(), seen.width(), seen.bottom() + 1 - row.top());
    setVisible(cut);
  }

  QAbstractItemView& view_;
};

} // namespace

void show_whole_rows(QAbstractItemView* view) {
  new RowCover(view);
}
