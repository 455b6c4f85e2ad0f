#include "core/compare/alike.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numeric>

namespace heft {
namespace {

std::vector<double> energiesOf(const std::vector<double>& x) {
  std::vector<double> out(x.size() + 1, 0.0);
  for (size_t i = 0; i < x.size(); ++i) out[i + 1] = out[i] + x[i] * x[i];
  return out;
}

struct Likeness {
  double alike = 0.0;
  ptrdiff_t shift = 0;
};

}  // namespace

MatchedFilter::MatchedFilter(const std::vector<double>& signal)
    : frames_(signal.size()),
      energy_(energiesOf(signal)),
      fft_(std::make_unique<RealFft>(sharedSize(std::max<size_t>(2, 2 * signal.size())))) {
  std::copy(signal.begin(), signal.end(), fft_->time().begin());
  std::fill(fft_->time().begin() + static_cast<ptrdiff_t>(frames_), fft_->time().end(), 0.0);
  fft_->forward();
  spectrum_.assign(fft_->bins().begin(), fft_->bins().end());
}

std::vector<Matched> MatchedFilter::matches(const std::vector<double>& pattern, double leastStrength,
                                            double leastAlike, size_t apart) const {
  const double own = std::inner_product(pattern.begin(), pattern.end(), pattern.begin(), 0.0);
  if (!(own > 0.0) || pattern.size() > frames_) return {};
  std::copy(pattern.begin(), pattern.end(), fft_->time().begin());
  std::fill(fft_->time().begin() + static_cast<ptrdiff_t>(pattern.size()), fft_->time().end(), 0.0);
  fft_->forward();
  for (size_t k = 0; k < spectrum_.size(); ++k) fft_->bins()[k] = spectrum_[k] * std::conj(fft_->bins()[k]);
  fft_->inverse();
  std::vector<Matched> all;
  for (size_t i = 0; i + pattern.size() <= frames_; ++i) {
    const double sum = fft_->time()[i], here = energy_[i + pattern.size()] - energy_[i];
    if (sum < leastStrength * own || !(here > 0.0)) continue;
    const double alike = sum / std::sqrt(own * here);
    if (alike >= leastAlike) all.push_back({i, sum / own, std::min(1.0, alike)});
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const Matched& a, const Matched& b) { return a.strength > b.strength; });
  std::vector<bool> taken(frames_, false);
  std::vector<Matched> out;
  for (const Matched& m : all) {
    if (taken[m.at]) continue;
    out.push_back(m);
    for (size_t i = m.at - std::min(m.at, apart); i < std::min(frames_, m.at + apart); ++i) taken[i] = true;
  }
  std::sort(out.begin(), out.end(), [](const Matched& a, const Matched& b) { return a.at < b.at; });
  return out;
}

namespace {

constexpr double kLeadOfPlace = 0.008, kLengthOfPlace = 0.1, kMostShift = 0.012;

// Each place with each other one, at its best shift.
class Likenesses {
 public:
  Likenesses(const std::vector<double>& signal, const std::vector<size_t>& places, double rate)
      : places_(places),
        count_(static_cast<size_t>(kLengthOfPlace * rate)),
        lag_(static_cast<size_t>(kMostShift * rate)),
        lead_(static_cast<size_t>(kLeadOfPlace * rate)),
        fft_(sharedSize(2 * (count_ + 2 * lag_))) {
    std::erase_if(places_,
                  [&](size_t at) { return at < lead_ + lag_ || at - lead_ + count_ + lag_ > signal.size(); });
    const auto energy = energiesOf(signal);
    for (const size_t at : places_) {
      const size_t from = at - lead_;
      cores_.push_back(transformed(signal, from, count_));
      wide_.push_back(transformed(signal, from - lag_, count_ + 2 * lag_));
      norms_.emplace_back();
      for (size_t k = 0; k <= 2 * lag_; ++k)
        norms_.back().push_back(std::sqrt(energy[from - lag_ + k + count_] - energy[from - lag_ + k]));
    }
  }
  size_t count() const { return places_.size(); }
  size_t place(size_t i) const { return places_[i]; }
  Likeness of(size_t pattern, size_t other) {
    for (size_t k = 0; k < fft_.bins().size(); ++k)
      fft_.bins()[k] = wide_[other][k] * std::conj(cores_[pattern][k]);
    fft_.inverse();
    Likeness out;
    for (size_t k = 0; k <= 2 * lag_; ++k) {
      const double norm = norms_[pattern][lag_] * norms_[other][k];
      const double alike = norm > 0.0 ? fft_.time()[k] / norm : 0.0;
      if (alike > out.alike) out = {alike, static_cast<ptrdiff_t>(k) - static_cast<ptrdiff_t>(lag_)};
    }
    return out;
  }

 private:
  std::vector<std::complex<double>> transformed(const std::vector<double>& x, size_t from, size_t count) {
    std::fill(fft_.time().begin(), fft_.time().end(), 0.0);
    std::copy_n(x.begin() + static_cast<ptrdiff_t>(from), count, fft_.time().begin());
    fft_.forward();
    return {fft_.bins().begin(), fft_.bins().end()};
  }
  std::vector<size_t> places_;
  size_t count_, lag_, lead_;
  RealFft fft_;
  std::vector<std::vector<std::complex<double>>> cores_, wide_;
  std::vector<std::vector<double>> norms_;
};

}  // namespace

std::vector<std::vector<Matched>> alikeGroups(const std::vector<double>& signal,
                                              const std::vector<size_t>& places, double rate) {
  constexpr double kAlike = 0.6;
  Likenesses all(signal, places, rate);
  const size_t n = all.count();
  std::vector<std::vector<Likeness>> table(n, std::vector<Likeness>(n));
  for (size_t a = 0; a < n; ++a)
    for (size_t b = 0; b < n; ++b) table[a][b] = all.of(a, b);
  std::vector<bool> used(n, false);
  std::vector<std::vector<Matched>> out;
  while (true) {
    size_t best = n, most = 0;
    for (size_t a = 0; a < n; ++a) {
      size_t members = 0;
      for (size_t b = 0; b < n && !used[a]; ++b) members += !used[b] && table[a][b].alike > kAlike;
      if (members > most) most = members, best = a;
    }
    if (best == n || most < 2) return out;
    out.emplace_back();
    for (size_t b = 0; b < n; ++b) {
      if (used[b] || !(table[best][b].alike > kAlike)) continue;
      used[b] = true;
      const auto at = static_cast<size_t>(static_cast<ptrdiff_t>(all.place(b)) + table[best][b].shift);
      out.back().push_back({at, 1.0, table[best][b].alike});
    }
  }
}

}  // namespace heft
