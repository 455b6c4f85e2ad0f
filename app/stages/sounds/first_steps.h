#pragma once
/// What an empty session offers instead of a picture: the demo, your own files, a folder of sounds.

#include <QWidget>

namespace heft::app {

class FirstSteps : public QWidget {
  Q_OBJECT
 public:
  FirstSteps();

 Q_SIGNALS:
  void demoAsked();
  void filesAsked();
  void folderAsked();
};

}  // namespace heft::app
