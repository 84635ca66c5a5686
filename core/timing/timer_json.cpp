// As JSON.
#include "timing/timer_json.h"

#include "timing/timer.h"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <stdexcept>

namespace arc {

Json timers_json(const Interrupter& interrupter, const PulsePlan& plan) {
  Json timers = Json::array();
  const TimerTask task{{std::min(20e-6, plan.on_s / 2), interrupter.longest_on_s},
                       {std::min(20.0, plan.rate_hz / 2), interrupter.highest_rate_hz},
                       TimerTask{}.supply_v,
                       interrupter.largest_duty};
  for (const auto make : {two_timers, steered_timer}) try {
      const TimerCircuit circuit = make(task);
      Json parts = Json::array();
      for (const TimerPart& part : circuit.parts) {
        parts.push_back({{"part", part.name}, {"what", part.what}});
        if (part.value > 0) parts.back()["value"] = part.value;
      }
      timers.push_back({{"circuit", circuit.key},
                        {"on_time_s", {circuit.on_s.low, circuit.on_s.high}},
                        {"rate_hz", {circuit.rate_hz.low, circuit.rate_hz.high}},
                        {"duty", {circuit.duty.low, circuit.duty.high}},
                        {"on_time_band", circuit.on_band},
                        {"rate_band", circuit.rate_band},
                        {"parts", parts},
                        {"connections", circuit.connections}});
      if (!circuit.note.empty()) timers.back()["note"] = circuit.note;
    } catch (const std::invalid_argument& refusal) {
      timers.push_back({{"problem", refusal.what()}});
    }
  return timers;
}

} // namespace arc
