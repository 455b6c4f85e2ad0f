#pragma once
/// Which reference is heard instead of the loop, level matched; hidden names and their tally.

#include <QObject>
#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "app/document/aside.h"
#include "app/document/document.h"
#include "app/play/blind_order.h"
#include "app/play/transport.h"
#include "engine/player/heard_match.h"

namespace heft::app {

class ReferenceEar : public QObject {
  Q_OBJECT
 public:
  ReferenceEar(Document& document, Transport& transport, QObject* parent = nullptr);

  /// Index of the reference that is heard; nothing: the loop.
  std::optional<size_t> heard() const { return heard_; }
  /// Plays its chosen section, or the loop. Its sound is prepared aside where it is new.
  void hear(std::optional<size_t> reference);
  /// Between the loop and the reference that was heard last.
  void flip();
  /// Where it is in sight its sounds are prepared beforehand, so that a flip is heard at once.
  void setShown(bool shown);
  MatchBy matchBy() const { return by_; }
  void setMatchBy(MatchBy by);
  /// Gain that matches a reference to the loop, dB; nothing until it is known.
  std::optional<double> matchOf(size_t reference) const;

  /// Hidden: numbers from 0 play the loop and the references in a new order.
  bool isHidden() const { return order_.isHidden(); }
  void setHidden(bool hidden);
  /// What a number plays: nothing is the loop.
  std::optional<size_t> behind(int number) const;
  /// The number of what is heard.
  int numberHeard() const;
  void hearNumber(int number);
  /// Counts what is heard as the better one, and hides the names anew.
  void prefer();
  /// How often the loop (0) or a reference (from 1) was preferred.
  int tallyOf(int which) const { return order_.tallyOf(which); }
  QString tallyText() const;
  /// Its name, or "hidden".
  QString heardName() const;

 Q_SIGNALS:
  void changed();

 private:
  struct Ready {
    std::shared_ptr<const ReferenceSound> sound;
    std::optional<double> lufs;
    HeardHow how;
    bool measured = false;
  };
  StepKey keyOf(size_t reference) const;
  HeardHow how() const;
  void prepare();
  void apply();
  void forget();

  Document& document_;
  Transport& transport_;
  std::map<StepKey, Ready> ready_;
  std::optional<double> now_, before_;
  std::optional<size_t> heard_;
  size_t last_ = 0;
  MatchBy by_ = MatchBy::Loudness;
  LatestAside preparing_;
  bool shown_ = false;
  BlindOrder order_;  ///< of the loop (0) and the references (from 1)
};

}  // namespace heft::app
