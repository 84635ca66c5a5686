// Text is text: what a file or a builder names is never taken for markup. Labels, boxes and tooltips are made here
// and nowhere else (scripts/check-layers looks).
#pragma once

#include <QLabel>
#include <QMessageBox>
#include <QString>
#include <functional>

/// A label that shows its text as it is.
QLabel* make_text(const QString& text, QWidget* parent);
inline QLabel* make_text(QWidget* parent) {
  return make_text({}, parent);
}
/// A label of the program's own markup; whatever else goes into it is escaped by the caller.
QLabel* make_marked_up(const QString& html, QWidget* parent);

/// A message box that shows its text as it is.
class MessageBox : public QMessageBox {
 public:
  MessageBox(Icon icon, const QString& title, const QString& text, StandardButtons buttons, QWidget* parent)
      : QMessageBox(icon, title, {}, buttons, parent) {
    setTextFormat(Qt::PlainText);
    setText(text);
  }
};
/// Says something that must be read, and waits until it was.
void say(QWidget* parent, const QString& title, const QString& text);

/// What is told of a control, or of a place in it, beside its own tip; empty: nothing.
using MoreOfTip = std::function<QString(const QWidget& widget, const QPoint& at)>;

/// From now on every tooltip of the program shows its text as it is, in tables too.
void install_plain_tooltips(MoreOfTip more);

/// As a text of a menu or a button, in which “&” marks a shortcut.
inline QString unmarked(QString text) {
  return text.replace('&', "&&");
}
