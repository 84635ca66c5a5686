// Numbers at their decimal points; described in the header.
#include "toolkit/number_columns.h"

#include <QApplication>
#include <QHeaderView>
#include <QPainter>
#include <QRegularExpression>
#include <QStyledItemDelegate>
#include <QTableWidget>
#include <QTimer>
#include <algorithm>
#include <vector>

namespace {

// From the decimal point on, or from where it would be.
qsizetype point_of(const QString& text) {
  static const QRegularExpression whole(R"(^[+\-−]?\d+)");
  const auto match = whole.match(text);
  return match.hasMatch() ? match.capturedEnd() : text.size();
}

bool is_blank(const QString& text) {
  return text.isEmpty() || text == "–";
}

class NumberColumns : public QStyledItemDelegate {
 public:
  explicit NumberColumns(QTableView* table) : QStyledItemDelegate(table), table_(table) {
    later_.setSingleShot(true);
    table->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter); // while nothing is in it
    connect(&later_, &QTimer::timeout, this, &NumberColumns::settle);
    const auto changed = [this] { later_.start(0); };
    connect(table->model(), &QAbstractItemModel::dataChanged, this, changed);
    connect(table->model(), &QAbstractItemModel::rowsRemoved, this, changed);
    connect(table->model(), &QAbstractItemModel::columnsInserted, this, changed);
    connect(table->model(), &QAbstractItemModel::modelReset, this, changed);
  }

  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const QString text = index.data().toString();
    if (!holds_numbers(index.column()) || is_blank(text)) return QStyledItemDelegate::paint(painter, option, index);
    QStyleOptionViewItem cell = option;
    initStyleOption(&cell, index);
    cell.text.clear();
    QStyle* style = cell.widget ? cell.widget->style() : QApplication::style();
    style->drawControl(QStyle::CE_ItemViewItem, &cell, painter, cell.widget);
    const QFontMetrics metrics(cell.font);
    const int head = metrics.horizontalAdvance(text.left(point_of(text)));
    QRect room = cell.rect.adjusted(margin, 0, -margin, 0);
    room.setLeft(
        std::max(room.left(), room.right() - columns_[static_cast<std::size_t>(index.column())].tail - head + 1));
    painter->save();
    painter->setFont(cell.font);
    painter->setPen(
        cell.palette.color(cell.state & QStyle::State_Selected ? QPalette::HighlightedText : QPalette::Text));
    painter->drawText(room, Qt::AlignLeft | Qt::AlignVCenter | Qt::TextSingleLine,
                      metrics.elidedText(text, Qt::ElideRight, room.width()));
    painter->restore();
  }

  QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    QSize size = QStyledItemDelegate::sizeHint(option, index);
    if (holds_numbers(index.column())) {
      const Column& c = columns_[static_cast<std::size_t>(index.column())];
      size.setWidth(std::max(size.width(), c.head + c.tail + 2 * margin));
    }
    return size;
  }

 protected:
  void initStyleOption(QStyleOptionViewItem* option, const QModelIndex& index) const override {
    QStyledItemDelegate::initStyleOption(option, index);
    option->displayAlignment = side(index.column()); // dashes stand with the numbers
  }

 private:
  static constexpr int margin = 6;
  static constexpr int most_looked_at = 500; // rows of a long table

  struct Column {
    bool numbers = false;
    int head = 0, tail = 0; // widest before the decimal point, and from it on
  };

  bool holds_numbers(int column) const {
    return column < static_cast<int>(columns_.size()) && columns_[static_cast<std::size_t>(column)].numbers;
  }
  Qt::Alignment side(int column) const {
    return (holds_numbers(column) ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter;
  }

  Column look_at(int c) const {
    Column out;
    bool words = false;
    const QAbstractItemModel& model = *table_->model();
    const int step = std::max(1, model.rowCount() / most_looked_at);
    for (int r = 0; r < model.rowCount(); r += step) {
      const QModelIndex item = model.index(r, c);
      const QString text = item.data().toString();
      if (is_blank(text)) continue;
      (is_number_cell(text) ? out.numbers : words) = true;
      const QVariant font = item.data(Qt::FontRole);
      const QFontMetrics metrics(font.isValid() ? font.value<QFont>() : table_->font());
      const qsizetype point = point_of(text);
      out.tail = std::max(out.tail, metrics.horizontalAdvance(text.mid(point)) + 1);
      out.head = std::max(out.head, metrics.horizontalAdvance(text.left(point)));
    }
    out.numbers = out.numbers && !words;
    return out;
  }

  void settle() {
    columns_.clear();
    auto* widget = qobject_cast<QTableWidget*>(table_);
    const int columns = table_->model()->columnCount();
    for (int c = 0; c < columns; ++c) {
      columns_.push_back(look_at(c));
      if (!widget)
        table_->model()->setHeaderData(c, Qt::Horizontal, QVariant(side(c)), Qt::TextAlignmentRole);
      else if (auto* head = widget->horizontalHeaderItem(c))
        head->setTextAlignment(side(c));
    }
    table_->horizontalHeader()->headerDataChanged(Qt::Horizontal, 0, std::max(0, columns - 1));
    table_->viewport()->update();
  }

  QTableView* table_;
  QTimer later_;
  std::vector<Column> columns_;
};

} // namespace

bool is_number_cell(const QString& text) {
  static const QRegularExpression number(
      R"(^[+\-−]?\d+(\.\d+)?(e[+\-]?\d+)?( ?[^\s\d.,;:]{1,8})?( ?± ?\d+(\.\d+)?( ?[^\s\d]{1,6})?)?$)");
  return number.match(text).hasMatch();
}

void align_numbers(QTableView* table) {
  table->setItemDelegate(new NumberColumns(table));
}
