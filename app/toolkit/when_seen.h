// Brings a widget up to date when there is somebody to see it: at once while it is visible, else when it is shown
// next. What nobody sees costs an edit nothing.
#pragma once

#include <QEvent>
#include <QWidget>
#include <functional>

class WhenSeen : public QObject {
 public:
  /// Lives and goes with the widget, which `refresh` may use freely.
  WhenSeen(QWidget* widget, std::function<void()> refresh)
      : QObject(widget), widget_(*widget), refresh_(std::move(refresh)) {
    widget->installEventFilter(this);
  }
  /// Whatever the signal carries is for `refresh` to look up.
  template <typename Sender, typename Signal>
  WhenSeen& on(const Sender& sender, Signal signal) {
    connect(&sender, signal, this, &WhenSeen::ask);
    return *this;
  }
  void ask() {
    stale_ = !widget_.isVisible();
    if (!stale_) refresh_();
  }
  /// For who reads the widget without looking at it.
  void catch_up() {
    if (std::exchange(stale_, false)) refresh_();
  }

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override {
    if (watched == &widget_ && event->type() == QEvent::Show) catch_up();
    return false;
  }

 private:
  QWidget& widget_;
  std::function<void()> refresh_;
  bool stale_ = false;
};
