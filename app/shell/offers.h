#pragma once
/// What the window asks in the notice bar, each with a button for every answer: a file changed on disk, a
/// session is open elsewhere, a sound is no one-shot, a key was found, a crash left something.

#include <QFileInfo>
#include <QObject>
#include <QStringList>
#include <functional>

#include "app/document/document.h"
#include "app/files/key_files.h"

namespace heft::app {

class NoticeBar;

class Offers : public QObject {
  Q_OBJECT
 public:
  Offers(Document& document, NoticeBar& notices);
  void key(const KeyOffer& found);
  /// What earlier runs left in that folder after a crash; `mayDiscard` asks about the open session.
  void offerLeftBehind(const QString& root, const std::function<bool()>& mayDiscard);

 private:
  void reload(const QString& path);
  void firstBeat(double seconds);
  void longReference(const QString& path, double seconds, const std::function<void()>& use);
  void material(Place place, int layer, const MaterialFacts& facts);
  void copy();
  void keep();
  static QFileInfoList leftBehind(const QString& root);

  Document& document_;
  NoticeBar& notices_;
  QStringList writtenAgain_;
};

}  // namespace heft::app
