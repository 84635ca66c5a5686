// Lines that are read from the bench: as large as fits, each whole.
#pragma once

#include "base/workspace.h"

#include <QLabel>
#include <QScrollArea>
#include <QWidget>
#include <vector>

/// Lines under one another, each with a mark before it or none, in the largest letters with which all of them are
/// seen whole. Where not even the smallest do it, it scrolls.
class BenchList : public QScrollArea {
  Q_OBJECT
 public:
  static constexpr int largest = 24, smallest = 13; // pixels

  explicit BenchList(QWidget* parent);
  /// Takes away all lines.
  void clear();
  /// A new line; `mark` becomes its child, may be null. The words are set in what is returned.
  QLabel* add_line(QWidget* mark, const QString& name = {});
  /// Bold or not; the letters are found anew.
  void set_weight(QFont::Weight weight);
  /// After words have changed.
  void fit();
  /// Height of the letters, pixels.
  int letters() const { return letters_; }

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  struct Line {
    QWidget* mark;
    QLabel* words;
  };
  int height_with(int letters, int width) const;
  QRect words_at(const Line& line, int letters, int top, int width) const;

  QWidget* holder_;
  std::vector<Line> lines_;
  QFont::Weight weight_ = QFont::Normal;
  int letters_ = largest;
};
