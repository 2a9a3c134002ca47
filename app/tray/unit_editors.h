// The controls of what varies from unit to unit: rules and formulas, with a preview of how the values spread.
#pragma once
#include "app/tray/parameter_row.h"

namespace loom::app {

ValueEditor* makeRuleEditor(QWidget* parent);
/// `wrapped`: of any number, its value is a Formula; else of a formula node, its value is the text.
ValueEditor* makeFormulaEditor(QWidget* parent, bool wrapped);

}  // namespace loom::app
