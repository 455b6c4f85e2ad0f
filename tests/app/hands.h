#pragma once
/// What a user's hands do, for the tests that drive the window.

#include <gtest/gtest.h>

#include <QLineEdit>
#include <QTest>

#include "app/widgets/value_field.h"

namespace heft::app {

/// Types over what an opened field holds, and Enter.
inline void typeOver(ValueField* field, const QString& text) {
  auto* editor = field->findChild<QLineEdit*>();
  ASSERT_TRUE(editor) << field->objectName().toStdString();
  editor->selectAll();
  QTest::keyClicks(editor, text);
  QTest::keyClick(editor, Qt::Key_Return);
}

}  // namespace heft::app
