// The grammar of SVG's path data and transforms, read from left to right without looking back.
#include "parts/path_data.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <optional>
#include <string>
#include <utility>

namespace arc {
namespace {

using Point = std::array<double, 2>;

constexpr double degree = std::numbers::pi / 180;

Point operator+(Point a, Point b) {
  return {a[0] + b[0], a[1] + b[1]};
}
Point mirrored(Point what, Point at) {
  return {2 * at[0] - what[0], 2 * at[1] - what[1]};
}

// Numbers with blanks and single commas between them.
class Scanner {
 public:
  explicit Scanner(std::string_view text) : text_(text) {}

  bool at_end() {
    blanks();
    return at_ == text_.size();
  }
  char take() {
    first_ = true;
    return text_[at_++];
  }
  bool take(char wanted) {
    if (at_end() || text_[at_] != wanted) return false;
    ++at_;
    return true;
  }
  std::string_view word() {
    blanks();
    const std::size_t from = at_;
    while (at_ < text_.size() && std::isalpha(static_cast<unsigned char>(text_[at_]))) ++at_;
    return text_.substr(from, at_ - from);
  }
  /// Whether a number or a comma stands next: another round of the same command.
  bool more() { return !at_end() && std::string_view("0123456789.+-,").find(text_[at_]) != std::string_view::npos; }

  double number() {
    comma();
    std::size_t from = at_;
    if (from < text_.size() && (text_[from] == '+' || text_[from] == '-')) ++from;
    if (from == text_.size() || (text_[from] != '.' && (text_[from] < '0' || text_[from] > '9')))
      throw PathProblem("a number is missing");
    double value = 0;
    const char* const end = text_.data() + text_.size();
    const auto [stop, error] = std::from_chars(text_.data() + from, end, value);
    constexpr double largest = 1e6;
    if (error != std::errc() || value > largest)
      throw PathProblem(fmt::format(
          "it holds the number {}; a drawing in millimetres needs none above {:g}",
          text_.substr(from, std::min<std::size_t>(static_cast<std::size_t>(stop - text_.data()) - from, 20)),
          largest));
    const double sign = text_[at_] == '-' ? -1 : 1;
    at_ = static_cast<std::size_t>(stop - text_.data());
    return sign * value;
  }
  // One character: the next number may follow without a blank.
  bool flag() {
    comma();
    if (at_ == text_.size() || (text_[at_] != '0' && text_[at_] != '1'))
      throw PathProblem("a flag is neither 0 nor 1");
    return text_[at_++] == '1';
  }

 private:
  // One may stand between numbers, none before the first.
  void comma() {
    if (!std::exchange(first_, false)) take(',');
    blanks();
  }
  void blanks() {
    while (at_ < text_.size() && std::string_view(" \t\r\n\f\v").find(text_[at_]) != std::string_view::npos) ++at_;
  }

  std::string_view text_;
  std::size_t at_ = 0;
  bool first_ = true;
};

class Subpath {
 public:
  Subpath(std::string_view data, std::size_t most_points) : in_(data), most_points_(most_points) {}

  std::vector<Point> read() {
    while (!in_.at_end()) command(in_.take());
    return std::move(points_);
  }

 private:
  void command(char letter) {
    relative_ = letter >= 'a';
    const char what = relative_ ? static_cast<char>(letter - 'a' + 'A') : letter;
    if (what == 'Z') return close();
    if (std::string_view("MLHVCSQTA").find(what) == std::string_view::npos || (!begun_ && what != 'M'))
      throw PathProblem(fmt::format("“{}” is no command there", letter));
    begun_ = true;
    char one = what;
    do {
      draw(one);
      if (one == 'M') one = 'L'; // what follows a move's first pair are lines
    } while (in_.more());
  }

  void draw(char what) {
    const std::optional<Point> handle = std::exchange(handle_, {});
    const bool cubic = std::exchange(cubic_, false);
    switch (what) {
    case 'M':
      move(point());
      break;
    case 'L':
      line(point());
      break;
    case 'H':
      line({in_.number() + (relative_ ? at_[0] : 0), at_[1]});
      break;
    case 'V':
      line({at_[0], in_.number() + (relative_ ? at_[1] : 0)});
      break;
    case 'C':
    case 'S': {
      const Point first = what == 'C' ? point() : handle && cubic ? mirrored(*handle, at_) : at_;
      const Point second = point();
      curve(first, second, point());
      handle_ = second;
      cubic_ = true;
      break;
    }
    case 'Q':
    case 'T': {
      const Point middle = what == 'Q' ? point() : handle && !cubic ? mirrored(*handle, at_) : at_;
      const Point from = at_, to = point();
      const auto third = [&](Point end) {
        constexpr double near = 1.0 / 3, far = 2.0 / 3;
        return Point{end[0] * near + far * middle[0], end[1] * near + far * middle[1]};
      };
      curve(third(from), third(to), to);
      handle_ = middle;
      break;
    }
    default: {
      const double rx = in_.number(), ry = in_.number(), turn = in_.number() * degree;
      const bool large = in_.flag(), sweep = in_.flag();
      arc(std::abs(rx), std::abs(ry), turn, large, sweep, point());
    }
    }
  }

  // In the order of writing.
  Point point() {
    const double x = in_.number(), y = in_.number();
    return relative_ ? at_ + Point{x, y} : Point{x, y};
  }

  void move(Point to) {
    if (points_.size() > 1)
      done_ = true;
    else if (!done_)
      points_.clear();
    start_ = to;
    line(to);
  }
  void close() {
    if (!begun_) throw PathProblem("it does not begin with a move");
    if (!points_.empty()) line(start_);
    handle_.reset();
  }
  void line(Point to) {
    at_ = to;
    if (done_) return;
    if (points_.size() >= most_points_)
      throw PathProblem(fmt::format("it has more than {} points; simplify the drawing", most_points_));
    points_.push_back(to);
  }
  void curve(Point p1, Point p2, Point p3) {
    const Point p0 = at_;
    constexpr int cuts = 16;
    for (int i = 1; i <= cuts; ++i) {
      const double t = static_cast<double>(i) / cuts, u = 1 - t;
      const auto along = [&](std::size_t k) {
        return u * u * u * p0[k] + 3 * u * u * t * p1[k] + 3 * u * t * t * p2[k] + t * t * t * p3[k];
      };
      line({along(0), along(1)});
    }
    at_ = p3;
  }

  // From end points to the centre: SVG 1.1, appendix F.6. Cubics for less than a quarter turn: L. Maisonobe,
  // Drawing an elliptical arc using polylines, quadratic or cubic Bézier curves (2003), off by at most 3e-4 of the
  // radius.
  void arc(double rx, double ry, double turn, bool large, bool sweep, Point to) {
    if (to == at_) return;
    if (rx == 0 || ry == 0) return line(to);
    const double cosine = std::cos(turn), sine = std::sin(turn);
    const double dx = (at_[0] - to[0]) / 2, dy = (at_[1] - to[1]) / 2;
    const double x = cosine * dx + sine * dy, y = -sine * dx + cosine * dy;
    const double beyond = x * x / (rx * rx) + y * y / (ry * ry);
    if (beyond > 1) { // too small to reach
      rx *= std::sqrt(beyond);
      ry *= std::sqrt(beyond);
    }
    const double rx2 = rx * rx, ry2 = ry * ry, x2 = x * x, y2 = y * y;
    const double squared = (rx2 * ry2 - rx2 * y2 - ry2 * x2) / (rx2 * y2 + ry2 * x2);
    const double away = (large == sweep ? -1 : 1) * std::sqrt(std::max(0.0, squared)), aspect = rx / ry;
    const double cx = away * aspect * y, cy = -away * x / aspect;
    const Point centre{cx * cosine - cy * sine + (at_[0] + to[0]) / 2,
                       cx * sine + cy * cosine + (at_[1] + to[1]) / 2};
    const double from = std::atan2((y - cy) / ry, (x - cx) / rx);
    double until = std::atan2((-y - cy) / ry, (-x - cx) / rx);
    if (sweep && until < from) until += 2 * std::numbers::pi;
    if (!sweep && until > from) until -= 2 * std::numbers::pi;
    const double angle = until - from;
    if (!std::isfinite(angle)) return line(to); // radii beyond what can be reckoned with
    const int pieces = static_cast<int>(std::abs(angle) / (std::numbers::pi / 2) + 1);
    const double step = angle / pieces, half = std::tan(step / 2);
    const double reach_out = std::sin(step) * (std::sqrt(4 + 3 * half * half) - 1) / 3;
    const auto turned = [&](double u, double v) { return Point{u * cosine - v * sine, u * sine + v * cosine}; };
    double eta = from;
    Point out = turned(-rx * std::sin(eta) * reach_out, ry * std::cos(eta) * reach_out);
    for (int i = 0; i < pieces; ++i) {
      eta += step;
      const Point first = at_ + out;
      const Point end = centre + turned(rx * std::cos(eta), ry * std::sin(eta));
      out = turned(-rx * std::sin(eta) * reach_out, ry * std::cos(eta) * reach_out);
      curve(first, {end[0] - out[0], end[1] - out[1]}, end);
    }
  }

  Scanner in_;
  std::size_t most_points_;
  std::vector<Point> points_;
  Point at_{}, start_{};
  std::optional<Point> handle_; // of the curve before, which a smooth one mirrors
  bool cubic_ = false;          // it was one of those
  bool begun_ = false, done_ = false, relative_ = false;
};

} // namespace

std::vector<Point> first_subpath(std::string_view data, std::size_t most_points) {
  return Subpath(data, most_points).read();
}

Affine operator*(const Affine& outer, const Affine& inner) {
  const Point x = outer({inner.a, inner.b}), y = outer({inner.c, inner.d}), origin = outer({inner.e, inner.f});
  return {x[0] - outer.e, x[1] - outer.f, y[0] - outer.e, y[1] - outer.f, origin[0], origin[1]};
}

Affine transform_of(std::string_view attribute) {
  Scanner in(attribute);
  Affine out;
  while (!in.at_end()) {
    const std::string_view name = in.word();
    std::vector<double> by;
    if (in.at_end() || in.take() != '(')
      throw PathProblem(fmt::format("the transform “{}” is not known", attribute.substr(0, 30)));
    while (in.more()) by.push_back(in.number());
    if (!in.take(')')) throw PathProblem("a transform is not closed");
    const auto has = [&](std::size_t least, std::size_t most) { return by.size() >= least && by.size() <= most; };
    const auto angle = [&] { return by[0] * degree; };
    if (name == "matrix" && has(6, 6)) {
      out = out * Affine{by[0], by[1], by[2], by[3], by[4], by[5]};
    } else if (name == "translate" && has(1, 2)) {
      out = out * Affine{1, 0, 0, 1, by[0], by.size() > 1 ? by[1] : 0};
    } else if (name == "scale" && has(1, 2)) {
      out = out * Affine{by[0], 0, 0, by.back(), 0, 0};
    } else if (name == "rotate" && (has(1, 1) || has(3, 3))) {
      const Affine turn{std::cos(angle()), std::sin(angle()), -std::sin(angle()), std::cos(angle()), 0, 0};
      out = by.size() == 1 ? out * turn
                           : out * Affine{1, 0, 0, 1, by[1], by[2]} * turn * Affine{1, 0, 0, 1, -by[1], -by[2]};
    } else if (name == "skewX" && has(1, 1)) {
      out = out * Affine{1, 0, std::tan(angle()), 1, 0, 0};
    } else if (name == "skewY" && has(1, 1)) {
      out = out * Affine{1, std::tan(angle()), 0, 1, 0, 0};
    } else {
      throw PathProblem(fmt::format("the transform “{}” is not known, or has the wrong number of values", name));
    }
    in.take(',');
  }
  return out;
}

} // namespace arc
