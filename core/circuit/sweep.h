// A matrix times a vector, for small real matrices that are used millions of times.
#pragma once

#include <array>
#include <cstddef>
#include <stdexcept>
#include <vector>

namespace arc::lanes {

inline constexpr int most_sweep_rows = 64;

// out = m x, m stored by columns of `rows` doubles. Plain lanes instead of a matrix library's expressions: as fast
// when optimised, and ten times as fast under the sanitizers. Each row's sum goes over the columns in their order,
// so that wide lanes give the very same numbers as narrow ones.
using Sweep = void (*)(const double* m, int columns, const double* x, double* out);
using Two = double __attribute__((vector_size(16), may_alias));
template <int Rows>
void sweep(const double* m, int columns, const double* x, double* out) {
  constexpr int pairs = Rows / 2;
  Two sum[pairs] = {};
  for (int c = 0; c < columns; ++c) {
    const Two* const column = reinterpret_cast<const Two*>(m + c * Rows);
#pragma GCC unroll 32
    for (int i = 0; i < pairs; ++i) sum[i] += column[i] * x[c];
  }
#pragma GCC unroll 32
  for (int i = 0; i < pairs; ++i) reinterpret_cast<Two*>(out)[i] = sum[i];
}

#ifdef __x86_64__
using Four = double __attribute__((vector_size(32)));
// Columns stand on 16 bytes, not on 32; a typedef, because only there less than the usual is heeded by all
// compilers.
typedef double LooseFour __attribute__((vector_size(32), aligned(8), may_alias));
// No fused multiplication and addition, which would round differently.
template <int Rows>
__attribute__((target("avx"), no_sanitize("address", "undefined"))) void wide_sweep(const double* m, int columns,
                                                                                    const double* x, double* out) {
  constexpr int fours = Rows / 4, rest = Rows % 4 / 2;
  Four sum[fours] = {};
  Two last = {};
  for (int c = 0; c < columns; ++c) {
    const double* const from = m + c * Rows;
#pragma GCC unroll 32
    for (int i = 0; i < fours; ++i) sum[i] += *reinterpret_cast<const LooseFour*>(from + 4 * i) * x[c];
    if constexpr (rest > 0) last += *reinterpret_cast<const Two*>(from + 4 * fours) * x[c];
  }
#pragma GCC unroll 32
  for (int i = 0; i < fours; ++i) *reinterpret_cast<LooseFour*>(out + 4 * i) = sum[i];
  if constexpr (rest > 0) *reinterpret_cast<Two*>(out + 4 * fours) = last;
}
#endif

struct Width {
  int rows = 0;
  Sweep sweep = nullptr;

  // The sanitizers leave the wide sweeps alone, which would take ten times as long; here they see both ends of all
  // that is read and written.
  void over(const double* m, int columns, const double* x, double* out) const {
    out[0] = m[rows * columns - 1];
    out[rows - 1] = x[columns - 1];
    sweep(m, columns, x, out);
  }
};

// The fastest that this processor has.
template <int Rows>
Width width() {
#ifdef __x86_64__
  if (__builtin_cpu_supports("avx")) return {Rows, wide_sweep<Rows>};
#endif
  return {Rows, sweep<Rows>};
}

inline Width width_for(int rows) {
  static const std::array<Width, 12> widths{{width<12>(), width<16>(), width<18>(), width<20>(), width<22>(),
                                             width<24>(), width<28>(), width<32>(), width<36>(), width<40>(),
                                             width<48>(), width<most_sweep_rows>()}};
  for (const Width& w : widths)
    if (w.rows >= rows) return w;
  throw std::invalid_argument("the feed has too many parts to be simulated with the oscillator");
}

struct alignas(16) Pair {
  double values[2];
};
// Doubles on a boundary that the sweep may load from.
class Aligned {
 public:
  void resize(std::size_t doubles) { pairs_.assign((doubles + 1) / 2, Pair{}); }
  double* data() { return pairs_.empty() ? nullptr : pairs_.front().values; }
  const double* data() const { return pairs_.empty() ? nullptr : pairs_.front().values; }

 private:
  std::vector<Pair> pairs_;
};

} // namespace arc::lanes
