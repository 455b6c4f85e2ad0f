#include <gtest/gtest.h>
TEST(Start, Placeholder) { SUCCEED(); }
