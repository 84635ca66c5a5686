// Phrases that High Arc has given up for the field's own terms (docs/words.md), each with the places where it does
// not stand any more. "The clip" is the hardware: it stays on a tank. No bare verbs.
#pragma once

#include <array>
#include <regex>
#include <string>
#include <string_view>
#include <vector>

namespace given_up {

enum Place : unsigned { label = 1, finding = 2, guide = 4, everywhere = label | finding | guide };

struct Phrase {
  const char* pattern; // a regular expression
  unsigned places;
  std::string_view instead;
};

inline constexpr std::array phrases{
    Phrase{R"(\b([Mm]oves? the|[Aa]t this|No) clip\b|\bthe clip (is at|goes)|clip at turn|[Cc]lip position)",
           everywhere, "tap"},
    Phrase{R"(\b[Ff]oot\b(?! switch))", everywhere, "base of the secondary"},
    Phrase{R"(\b(each|the|a|this|per|single) shot\b)", everywhere, "break"},
    Phrase{R"(\bbangs?\b)", everywhere, "break"},
    Phrase{R"(\bsilent coil\b)", everywhere, "unloaded coil"},
    Phrase{R"(\bcrowded current\b)", everywhere, "inductance at RF"},
    Phrase{R"(\bGap fires at\b)", everywhere, "firing voltage"},
    Phrase{R"(\bBreaks each second\b)", everywhere, "break rate"},
    Phrase{R"(\bbreaks each second\b)", everywhere, "bps"},
    Phrase{R"(\bBursts each second\b)", label, "burst rate"},
    Phrase{R"(\bSpacing of each\b)", everywhere, "gap width"},
    Phrase{R"(\bRotor turns\b)", everywhere, "rotor speed"},
    Phrase{R"(\bLocked to mains at\b)", label, "synchronous phase"},
    Phrase{R"(\bSurface factor\b)", everywhere, "roughness factor"},
    Phrase{R"(\b[KJ] per [WK]\b)", everywhere, "K/W"},
    Phrase{R"(\b[Ss]tray at the\b)", label, "stray capacitance"},
    Phrase{R"(\b[Ss]ide by side\b)", label | finding, "in parallel"},
    Phrase{R"(\bEnds swapped\b|\bFeeds back$)", label, "reversed, correct"},
    Phrase{R"(\b[Ff]ullest\b)", label | finding, "worst-loaded"},
    Phrase{R"(\bResonates with the mains\b)", everywhere, "mains-resonant capacitance"},
    Phrase{R"(\blossless limit\b)", everywhere, "ideal top voltage"},
    Phrase{R"(\bneighbouring turns\b)", label | finding, "turn-to-turn voltage"},
    Phrase{R"(^Beside it$)", label, "hand estimate"},
    Phrase{R"(\bHands move\b)", finding, "people reach in"},
    Phrase{R"(\beats\b)", everywhere, "losses are high"},
    Phrase{R"(\bsnaps at a jerk\b)", everywhere, "breaks easily"},
    Phrase{R"(\b[Cc]oupling [\d.]+ is (loose|tight)\b)", finding, "low, high"},
    Phrase{R"(\bis packed to\b|^Packed close\b)", everywhere, "fill factor"},
    Phrase{R"(\bholds for good\b)", everywhere, "never trips"},
    Phrase{R"(\bin spite of (them|these)\b)", label, "arm anyway"},
    Phrase{R"(\bsmelt or died\b)", everywhere, "what failed"},
    Phrase{R"(\b(computed|simulated|begins it) anew\b)", label | finding, "again"},
    Phrase{R"(\bmean to wind\b)", everywhere, "plan to wind"},
    Phrase{R"(\bLay it across\b)", label, "add in parallel"},
    Phrase{R"(^(Holds|Across|Means|Off|Tank is|Keep|Hot at|Holds up to|Holds from)$)", label, "a noun"},
    Phrase{R"(\bInverse volts\b)", everywhere, "reverse voltage (PIV)"},
    Phrase{R"(\bIdle current, 0\b)", label, "magnetising current"},
    Phrase{R"(^Open output$|^Short circuit$)", label, "open-circuit voltage, short-circuit current"},
    Phrase{R"(\b[Tt]he law\b.*\b(simulated|points|this)$)", label, "model"},
    Phrase{R"(\bprotection capacitor)", everywhere, "RF bypass capacitor"},
    Phrase{R"(\bListen at\b)", everywhere, "take feedback from"},
    Phrase{R"(\bat the very most\b)", everywhere, "at most"},
    Phrase{R"(\bKicked by hand\b)", everywhere, "starts only when touched"},
    Phrase{R"(\bTake it as\b)", finding, "change to"},
};

/// What of it stands in the text, with what stands for it now; empty: nothing.
inline std::string found_in(const std::string& text, Place place) {
  static const auto compiled = [] {
    std::vector<std::regex> out;
    for (const Phrase& phrase : phrases) out.emplace_back(phrase.pattern);
    return out;
  }();
  for (std::size_t i = 0; i < phrases.size(); ++i)
    if (std::smatch match; (phrases[i].places & place) != 0 && std::regex_search(text, match, compiled[i]))
      return "“" + match.str() + "” in “" + text + "”; the term is: " + std::string(phrases[i].instead);
  return {};
}

} // namespace given_up
