// Comparison of designs, in one place: the JSON of unknown keys makes it costly to compile.
#include "design/design.h"

namespace arc {

bool ToploadPart::operator==(const ToploadPart&) const = default;
bool ToploadVariant::operator==(const ToploadVariant&) const = default;
bool BankSection::operator==(const BankSection&) const = default;
bool Tank::operator==(const Tank&) const = default;
bool FeedBlock::operator==(const FeedBlock&) const = default;
bool Measurement::operator==(const Measurement&) const = default;
bool Run::operator==(const Run&) const = default;
bool Design::operator==(const Design&) const = default;

} // namespace arc
