// Designs of one kind from genes: what the brief's shelf and usual sizes give is picked, the coil is shaped and
// wound by usual proportions (common practice, no source), its craft sets the rest.
#pragma once

#include "coil/analysis.h"
#include "craft/kind.h"
#include "workshop/proposal_candidate.h"

#include <set>
#include <string>
#include <vector>

namespace arc {

/// What the secondary can be wound on and with; without a name it has to be bought.
struct Form {
  double diameter_m;
  double longest_m;
  std::string name;
};
struct Spool {
  double bare_m, overall_m, longest_m;
  std::string name;
};

struct Conductor {
  double diameter_m, longest_m;
  std::string name;
};
struct Toroid {
  double outer_m, tube_m;
  std::string name;
};

/// Devices of a group of the shelf that a search may take: owned ones, and the kind's usual one, which is bought.
struct DevicePool {
  const ShelfGroup* group = nullptr;
  std::vector<const ShelfPart*> owned;
  bool usual = true;
};

class ProposedDesigns {
 public:
  /// The brief must outlive it.
  ProposedDesigns(const Brief& brief, const CoilKind& kind);

  /// Groups that nothing may be bought of and that have nothing that serves; "must_use" when the kind has no place
  /// for a part.
  const std::set<std::string>& empty_groups() const { return empty_; }
  /// The design of the candidate's genes, with what its sizes and the handbook's resonance pass of the limits.
  void build(CoilCandidate& c) const;
  /// Sets height and tap of the primary by the field solution: coupling as the kind has it, the tank in tune, the
  /// primary a turn longer than its tap. False where no tap tunes the tank.
  bool tune(CoilCandidate& c, Kept& kept, Analysis& analysis) const;
  /// What of it is owned, what must be bought, and the price.
  void list_parts(CoilCandidate& c, const Analysis& analysis) const;

 private:
  void gather_forms();
  void gather_wires();
  void gather_tubing_and_toploads();
  void gather_craft_parts();
  void gather_devices();
  /// The owned one that the candidate's genes stand for; null: the usual one.
  const ShelfPart* device_of(const CoilCandidate& c, std::size_t pool) const;
  void wind(CoilCandidate& c, const Form& form, const Spool& spool) const;
  void shape_topload(Design& design, double scale, const Genes& genes) const;
  void shape_primary(Design& design, double scale, const Genes& genes) const;
  void couple(Design& design, double wanted, Kept& kept, Analysis& analysis) const;
  static double handbook_hz(const Design& design);
  static void take(CoilCandidate& c, std::string_view group, const std::string& name, int count,
                   const std::string& what);
  static void buy(CoilCandidate& c, std::string_view group, const std::string& what, int count);

  const Brief& brief_;
  const CoilKind& kind_;
  Design base_;
  std::vector<Form> forms_;
  std::vector<Spool> spools_;
  std::vector<Conductor> conductors_; // empty: by the size of the coil
  std::vector<Toroid> toroids_;       // likewise
  VaryParts parts_;
  std::vector<DevicePool> devices_;
  std::set<std::string> empty_;
};

} // namespace arc
