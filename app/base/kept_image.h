// A picture that is kept, with its bytes in the process's account of memory.
#pragma once
#include <QImage>

#include "core/plane/ledger.h"

namespace loom::app {

class KeptImage {
 public:
  KeptImage() = default;
  KeptImage(const QImage& image) : image_(image), bytes_(static_cast<std::size_t>(image.sizeInBytes())) {}
  const QImage* operator->() const { return &image_; }
  const QImage& operator*() const { return image_; }

 private:
  QImage image_;
  Booked bytes_;
};

}  // namespace loom::app
