// Letters are tried from the largest down.
#include "stages/bench_list.h"

#include "toolkit/text.h"

#include <algorithm>

namespace {

constexpr int between = 2; // lines
constexpr int mark_room = 30;

} // namespace

BenchList::BenchList(QWidget* parent) : QScrollArea(parent), holder_(new QWidget(this)) {
  setFocusPolicy(Qt::NoFocus);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setFrameShape(QFrame::NoFrame);
  setWidget(holder_);
}

void BenchList::clear() {
  for (const Line& line : lines_) {
    delete line.mark;
    delete line.words;
  }
  lines_.clear();
}

QLabel* BenchList::add_line(QWidget* mark, const QString& name) {
  auto* words = make_text(holder_);
  words->setObjectName(name);
  words->setWordWrap(true);
  words->setAlignment(Qt::AlignLeft | Qt::AlignTop);
  if (mark) mark->setParent(holder_);
  for (QWidget* part : {mark, static_cast<QWidget*>(words)})
    if (part) part->show();
  lines_.push_back({mark, words});
  return words;
}

void BenchList::set_weight(QFont::Weight weight) {
  if (weight == weight_) return;
  weight_ = weight;
  fit();
}

QRect BenchList::words_at(const Line& line, int letters, int top, int width) const {
  const int left = line.mark ? mark_room : 0;
  const QFontMetrics metrics(type::font(letters, weight_));
  const int room = std::max(40, width - left - 4);
  const int height =
      metrics.boundingRect(QRect(0, 0, room, 10000), Qt::TextWordWrap, line.words->text()).height() + 2;
  return {left, top, width - left, height};
}

int BenchList::height_with(int letters, int width) const {
  int top = 0;
  for (const Line& line : lines_) top += words_at(line, letters, top, width).height() + between;
  return top;
}

void BenchList::fit() {
  const int width = viewport()->width();
  letters_ = largest;
  while (letters_ > smallest && height_with(letters_, width) > height()) --letters_;
  int top = 0;
  for (const Line& line : lines_) {
    const QRect place = words_at(line, letters_, top, width);
    line.words->setFont(type::font(letters_, weight_));
    line.words->setGeometry(place);
    if (line.mark) {
      const QSize size = line.mark->sizeHint();
      line.mark->setGeometry(0, top + std::max(0, (QFontMetrics(line.words->font()).height() - size.height()) / 2),
                             mark_room - 2, size.height());
    }
    top += place.height() + between;
  }
  holder_->resize(width, std::max(top, 1));
}

void BenchList::resizeEvent(QResizeEvent* event) {
  QScrollArea::resizeEvent(event);
  fit();
}
