#pragma once
/// The grid's division and swing, above the heads of the loop strip's lanes.

class QWidget;

namespace heft::app {

class Document;

void addGridFields(Document& document, QWidget* strip);

}  // namespace heft::app
