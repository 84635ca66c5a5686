// Building the feed's network block by block.
#include "circuit/feed_network.h"

#include "circuit/feed.h"
#include "laws/circuit.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace arc {
namespace {

constexpr double line_ohm = 0.15; // house wiring, an assumption
constexpr double high_joint_ohm = 0.5, bus_joint_ohm = 0.02;

} // namespace

double FeedBuilder::joint_ohm() const {
  return end_ == FeedEnd::bus ? bus_joint_ohm : high_joint_ohm;
}

FeedBuilder::FeedBuilder(const std::vector<FeedBlock>& feed, const Site& site, FeedEnd end) : end_(end) {
  Network& n = out_.network;
  n.source_hz = site.mains_frequency_hz;
  mains_v_ = site.mains_voltage_v;
  bool two_ended = false, own_supply = false;
  for (const FeedBlock& block : feed) {
    const BlockKind& kind = *block_kind(block.kind);
    if (kind.ratio) out_.ratio *= kind.ratio(block);
    two_ended = two_ended || kind.two_ended;
    own_supply = own_supply || kind.own_supply;
  }
  scale_ = out_.ratio;
  minus_ = low_ = two_ended ? n.add_node() : 0;
  at_ = n.add_node();
  out_.source_plus = at_;
  out_.source_minus = minus_;
  if (own_supply) return; // the block brings the source
  n.sources.push_back({at_, minus_, 0, mains_v_ * std::numbers::sqrt2 * out_.ratio});
  series_resistor(line_ohm * square());
  out_.source_current = {Branch::Kind::resistor, 0};
  if (end != FeedEnd::bus) return;
  ballasted_ = true; // it is switched on where a core's flux is at zero
  const Node next = n.add_node();
  out_.line_switch = n.switches.size();
  n.switches.push_back({"switched on", at_, next, 1e-3 * square(), 1e7 * square(), false});
  at_ = next;
}

void FeedBuilder::passed(Branch branch) {
  for (const std::size_t joint : waiting_) out_.joints[joint].current = branch;
  waiting_.clear();
}

void FeedBuilder::before_shunt() {
  if (waiting_.empty()) return;
  const bool low = out_.joints[waiting_.back()].mains || end_ == FeedEnd::bus;
  series_resistor(low ? 0.002 * square() : 0.1);
}

void FeedBuilder::series_resistor(double ohm) {
  Network& n = out_.network;
  const Node next = n.add_node();
  passed({Branch::Kind::resistor, n.resistors.size()});
  n.resistors.push_back({at_, next, std::max(ohm, 1e-3)});
  at_ = next;
}

void FeedBuilder::series_inductor(const char* name, double henry) {
  Network& n = out_.network;
  const Node next = n.add_node();
  passed({Branch::Kind::inductor, n.inductors.size()});
  n.inductors.push_back({name, at_, next, henry});
  // A choke's losses and stray capacitance, as a large resistance: no current is left without a way.
  n.resistors.push_back({at_, next, 2 * std::numbers::pi * n.source_hz * henry * 3000});
  at_ = next;
}

void FeedBuilder::series_capacitor(const char* name, double farad) {
  Network& n = out_.network;
  const Node next = n.add_node();
  n.capacitors.push_back({name, at_, next, farad});
  at_ = next;
  ballasted_ = true;
  series_resistor(0.01 * square());
}

std::size_t FeedBuilder::add_diode(const char* name, Node from, Node to, const FeedBlock& block) {
  Network& n = out_.network;
  out_.diodes.push_back(
      {name, out_.joints.size(), n.switches.size(), string_voltage_v(block), string_current_a(block)});
  const bool high = end_ != FeedEnd::bus;
  n.switches.push_back({name, is_reversed(block) ? to : from, is_reversed(block) ? from : to,
                        high ? diode_on_ohm : mains_diode_on_ohm, high ? diode_off_ohm : mains_diode_off_ohm,
                        true});
  return n.switches.size() - 1;
}

void FeedBuilder::add_capacitor(const char* name, Node from, Node to, double farad, double way,
                                const FeedBlock& block) {
  Network& n = out_.network;
  out_.capacitors.push_back({name, out_.joints.size(), n.capacitors.size(), farad, block_value(block, "rated_v"),
                             block_value(block, "rated_ripple_a")});
  n.capacitors.push_back({name, from, to, farad, 0, way});
}

void FeedBuilder::series_diode(const char* name, const FeedBlock& block) {
  const Node next = out_.network.add_node();
  passed({Branch::Kind::switched, add_diode(name, at_, next, block)});
  at_ = next;
}

void FeedBuilder::magnetising(const char* name, const CoreData& core, double count) {
  if (!(core.idle_a > 0)) return;
  before_shunt();
  Network& n = out_.network;
  Magnetising branch = magnetising_branch(core);
  const double scale = square() / count;
  for (Network::Knee& knee : branch.knees) {
    knee.linear_a *= count / scale_;
    knee.henry *= scale;
  }
  // Switched on where its flux would be in the steady state: what is looked at is running, not the inrush.
  const double omega = 2 * std::numbers::pi * n.source_hz;
  const double start =
      n.sources.empty() || ballasted_ ? 0 : -n.sources.front().amplitude_v / omega / (branch.henry * scale);
  n.inductors.push_back({name, at_, low_, branch.henry * scale, start, branch.knees, true});
  n.resistors.push_back({at_, low_, branch.loss_ohm * scale});
}

void FeedBuilder::shunt_capacitor(const char* name, double farad, double joint, bool stays_full) {
  before_shunt();
  Network& n = out_.network;
  const Node middle = n.add_node();
  n.resistors.push_back({at_, middle, joint});
  n.capacitors.push_back({name, middle, low_, farad, 0, 0, stays_full});
}

void FeedBuilder::shunt_resistor(double ohm) {
  before_shunt();
  out_.network.resistors.push_back({at_, low_, ohm});
}

void FeedBuilder::bridge(const FeedBlock& block) {
  before_shunt(); // what flows to it is that of two arms
  const Node plus = out_.network.add_node();
  passed({Branch::Kind::switched, add_diode("bridge, first arm", at_, plus, block)});
  add_diode("bridge, second arm", minus_, plus, block);
  add_diode("bridge, third arm", 0, at_, block);
  add_diode("bridge, fourth arm", 0, minus_, block);
  at_ = plus;
  low_ = 0;
}

void FeedBuilder::level_shifter(const FeedBlock& block, double farad) {
  Network& n = out_.network;
  const Node shifted = n.add_node(), middle = n.add_node();
  passed({Branch::Kind::resistor, n.resistors.size()});
  n.resistors.push_back({at_, middle, joint_ohm()});
  add_capacitor("level shifter", middle, shifted, farad, -1, block);
  if (const double bleed_ohm = block_value(block, "bleed_resistance_ohm"); bleed_ohm > 0)
    n.resistors.push_back({middle, shifted, bleed_ohm});
  add_diode("level shifter's diodes", 0, shifted, block);
  at_ = shifted;
}

void FeedBuilder::full_wave_doubler(const FeedBlock& block, double farad, double bleed_ohm) {
  before_shunt();
  Network& n = out_.network;
  const Node plus = n.add_node(), upper = n.add_node(), lower = n.add_node();
  passed({Branch::Kind::switched, add_diode("doubler's upper diodes", at_, plus, block)});
  add_diode("doubler's lower diodes", 0, at_, block);
  n.resistors.push_back({plus, upper, joint_ohm()});
  add_capacitor("doubler, upper", upper, minus_, farad, 1, block);
  n.resistors.push_back({minus_, lower, joint_ohm()});
  add_capacitor("doubler, lower", lower, 0, farad, 1, block);
  if (bleed_ohm > 0) {
    n.resistors.push_back({plus, minus_, bleed_ohm});
    n.resistors.push_back({minus_, 0, bleed_ohm});
  }
  at_ = plus;
  low_ = 0;
}

void FeedBuilder::driver(double volts, double ohm, const DriverSource& source) {
  Network& n = out_.network;
  n.sources.push_back({at_, 0, volts, 0});
  out_.source_current = {Branch::Kind::resistor, n.resistors.size()};
  series_resistor(ohm);
  const Node next = n.add_node(); // the flyback's own rectifier
  n.switches.push_back({"flyback rectifier", at_, next, diode_on_ohm, diode_off_ohm, true});
  at_ = next;
  out_.driver = source;
}

void FeedBuilder::safety_gap(const std::string& title, double firing_v) {
  before_shunt();
  safety_gap_across(title, low_, firing_v);
}

void FeedBuilder::safety_gap_across(const std::string& title, Node from, double firing_v) {
  Network& n = out_.network;
  out_.safety_gaps.push_back(
      {title, n.switches.size(), at_, from, firing_v, std::min(safety_gap_opens_v, firing_v / 4)});
  n.switches.push_back({title, at_, from, safety_gap_on_ohm, gap_off_ohm, false});
  const Node stray = n.add_node();
  n.resistors.push_back({at_, stray, joint_ohm()});
  n.capacitors.push_back({"stray", stray, from, safety_gap_stray_f});
}

void FeedBuilder::dimmer(double angle_deg) {
  Network& n = out_.network;
  const Node next = n.add_node();
  const double square_ = square();
  passed({Branch::Kind::switched, n.switches.size()});
  out_.dimmer = FeedDimmer{n.switches.size(), angle_deg / 180, 0.02 / scale_};
  n.switches.push_back({"dimmer", at_, next, 0.1 * square_, 1e5 * square_, false});
  at_ = next;
  ballasted_ = true;
}

void FeedBuilder::inrush_limiter(const FeedBlock& block) {
  before_shunt(); // what flows to it is that of the resistor and the relay
  Network& n = out_.network;
  const Node from = at_;
  const std::size_t resistor = n.resistors.size();
  series_resistor(block_value(block, "resistance_ohm") * square());
  const double relay_after_s = block_value(block, "relay_after_s");
  out_.limiter = FeedLimiter{resistor, n.switches.size(), relay_after_s, scale_, thermistor_of(block)};
  n.switches.push_back({"relay", from, at_, 0.01 * square(), 1e7 * square(), false});
}

void FeedBuilder::part_in_line(double ohm, double limit_a) {
  series_resistor(ohm * square());
  limit_current(limit_a);
}

void FeedBuilder::breaker(double rated_a, bool type_c) {
  out_.breaker_a = rated_a;
  out_.breaker_c = type_c;
  limit_a_ = rated_a;
}

void FeedBuilder::add(const FeedBlock& block) {
  const BlockKind& kind = *block_kind(block.kind);
  limit_v_ = limit_a_ = 0;
  kind.build(*this, block);
  if (kind.place == BlockPlace::source) {
    past_source_ = true;
    scale_ = 1; // all is referred to its output
  }
  past_source_ = past_source_ || kind.rectifies;
  const bool mains = !past_source_;
  waiting_.push_back(out_.joints.size());
  out_.joints.push_back({std::string(kind.title),
                         at_,
                         low_,
                         mains ? scale_ : 1.0,
                         {},
                         limit_v_,
                         limit_a_,
                         mains,
                         kind.place == BlockPlace::source && low_ != 0});
}

FeedNetwork FeedBuilder::open_end() {
  series_resistor(end_ == FeedEnd::bus ? 0.002 : joint_ohm());
  out_.end = at_;
  out_.into_end = {Branch::Kind::resistor, out_.network.resistors.size() - 1};
  return std::move(out_);
}

FeedNetwork feed_network(const std::vector<FeedBlock>& feed, const Site& site, FeedEnd end) {
  if (const std::string problem = feed_problem(feed, end); !problem.empty()) throw std::invalid_argument(problem);
  FeedBuilder builder(feed, site, end);
  for (const FeedBlock& block : feed) builder.add(block);
  return builder.open_end();
}

std::optional<double> mains_resonant_capacitance_f(const Design& design) {
  const auto direct = [](const FeedBlock& b) {
    const BlockKind* kind = block_kind(b.kind);
    return !kind || kind->rectifies || kind->shifts;
  };
  if (std::ranges::any_of(design.feed, direct) || !feed_problem(design.feed).empty()) return {};
  double henry = 0;
  try {
    for (const auto& inductor : feed_network(design.feed, design.site).network.inductors)
      if (!inductor.magnetising) henry += inductor.henry;
  } catch (const std::invalid_argument&) { // a block's numbers contradict each other: charging says which
  }
  if (!(henry > 0)) return {};
  return resonating_capacitance_f(henry, design.site.mains_frequency_hz);
}

} // namespace arc
