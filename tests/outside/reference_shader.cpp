#include "tests/outside/reference_shader.h"

#include <EGL/egl.h>
#include <EGL/eglext.h>
#include <GLES3/gl3.h>

#include <QRegularExpression>
#include <QStringList>

#include "core/io/image.h"

namespace loom::test {
namespace {

GLuint compiled(GLenum kind, const QByteArray& source, QString& why) {
  const GLuint shader = glCreateShader(kind);
  const char* text = source.constData();
  glShaderSource(shader, 1, &text, nullptr);
  glCompileShader(shader);
  GLint done = 0;
  glGetShaderiv(shader, GL_COMPILE_STATUS, &done);
  if (done) return shader;
  std::array<char, 2000> log{};
  glGetShaderInfoLog(shader, log.size(), nullptr, log.data());
  why = QString::fromUtf8(log.data());
  return 0;
}

// One point for each place, in a row of pixels; what the fragment shader takes in comes from attributes.
QByteArray vertex_shader(const QStringList& taken, qsizetype places) {
  QByteArray head = "#version 300 es\n", body;
  for (const QString& in : taken) {
    const QByteArray type = in.section(QLatin1Char(' '), 0, 0).toUtf8(),
                     name = in.section(QLatin1Char(' '), 1).toUtf8();
    head += "in " + type + " a_" + name + ";\nout " + type + " " + name + ";\n";
    body += name + " = a_" + name + ";\n";
  }
  return head + "void main() {\n" + body + "gl_PointSize = 1.0;\ngl_Position = vec4((float(gl_VertexID) + 0.5) / " +
         QByteArray::number(places) + ".0 * 2.0 - 1.0, 0.0, 0.0, 1.0);\n}\n";
}

std::vector<float> attribute(const QString& name, const std::vector<ShadedPlace>& places) {
  std::vector<float> all;
  for (const ShadedPlace& p : places) {
    if (name.startsWith(QLatin1String("texcoord"))) {
      all.insert(all.end(), p.texcoord.begin(), p.texcoord.end());
      continue;
    }
    const auto& v = name.startsWith(QLatin1String("position"))  ? p.position
                    : name.startsWith(QLatin1String("normal"))  ? p.normal
                    : name.startsWith(QLatin1String("tangent")) ? p.tangent
                                                                : p.bitangent;
    all.insert(all.end(), v.begin(), v.end());
  }
  return all;
}

// Its first row is the top of the picture, which lies at 1.
bool load_image(const QString& path, int unit) {
  const auto image = read_image(path.toStdString());
  if (!image) return false;
  const auto row = static_cast<std::size_t>(image->width * image->channels);
  std::vector<float> upwards;
  for (int y = image->height; y-- > 0;) {
    const auto first = image->values.begin() + static_cast<std::ptrdiff_t>(row * static_cast<std::size_t>(y));
    upwards.insert(upwards.end(), first, first + static_cast<std::ptrdiff_t>(row));
  }
  GLuint texture = 0;
  glGenTextures(1, &texture);
  glActiveTexture(GL_TEXTURE0 + static_cast<GLenum>(unit));
  glBindTexture(GL_TEXTURE_2D, texture);
  const bool grey = image->channels == 1;
  glPixelStorei(GL_UNPACK_ALIGNMENT, 4);
  glTexImage2D(GL_TEXTURE_2D, 0, grey ? GL_R32F : GL_RGB32F, image->width, image->height, 0, grey ? GL_RED : GL_RGB,
               GL_FLOAT, upwards.data());
  for (const GLenum filter : {GL_TEXTURE_MIN_FILTER, GL_TEXTURE_MAG_FILTER})
    glTexParameteri(GL_TEXTURE_2D, filter, GL_NEAREST);
  return true;
}

bool set_uniforms(GLuint program, const QJsonObject& uniforms, const QString& folder, const std::array<float, 3>& eye) {
  int units = 0;
  for (auto it = uniforms.begin(); it != uniforms.end(); ++it) {
    const GLint at = glGetUniformLocation(program, it.key().toUtf8().constData());
    if (at < 0) continue;
    const QString type = it.value()[QLatin1String("type")].toString(),
                  text = it.value()[QLatin1String("value")].toString();
    std::array<float, 3> v{};
    const QStringList parts = text.split(QLatin1Char(','));
    for (qsizetype i = 0; i < std::min<qsizetype>(3, parts.size()); ++i)
      v[static_cast<std::size_t>(i)] = parts[i].trimmed().toFloat();
    if (type == QLatin1String("filename")) {
      if (!load_image(folder + QLatin1Char('/') + text, units)) return false;
      glUniform1i(at, units++);
    } else if (type == QLatin1String("integer") || type == QLatin1String("string")) {
      glUniform1i(at, static_cast<int>(v[0]));
    } else if (type == QLatin1String("boolean")) {
      glUniform1i(at, text == QLatin1String("true"));
    } else if (type == QLatin1String("float")) {
      glUniform1f(at, v[0]);
    } else if (type == QLatin1String("vector2")) {
      glUniform2f(at, v[0], v[1]);
    } else {
      glUniform3f(at, v[0], v[1], v[2]);
    }
  }
  if (const GLint at = glGetUniformLocation(program, "u_viewPosition"); at >= 0)
    glUniform3f(at, eye[0], eye[1], eye[2]);
  return true;
}

}  // namespace

ShaderRunner::ShaderRunner() {
  const auto display_of =
      reinterpret_cast<PFNEGLGETPLATFORMDISPLAYEXTPROC>(eglGetProcAddress("eglGetPlatformDisplayEXT"));
  if (!display_of) return;
  display_ = display_of(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
  if (!display_ || !eglInitialize(display_, nullptr, nullptr) || !eglBindAPI(EGL_OPENGL_ES_API)) return;
  const EGLint wanted[] = {EGL_RENDERABLE_TYPE, EGL_OPENGL_ES3_BIT, EGL_SURFACE_TYPE, 0, EGL_NONE};
  EGLConfig config = nullptr;
  EGLint found = 0;
  if (!eglChooseConfig(display_, wanted, &config, 1, &found) || !found) return;
  const EGLint version[] = {EGL_CONTEXT_MAJOR_VERSION, 3, EGL_NONE};
  void* context = eglCreateContext(display_, config, EGL_NO_CONTEXT, version);
  if (context && eglMakeCurrent(display_, EGL_NO_SURFACE, EGL_NO_SURFACE, context)) context_ = context;
}

ShaderRunner::~ShaderRunner() {
  if (display_) eglTerminate(display_);
}

std::optional<std::vector<std::array<float, 4>>> ShaderRunner::run(const QByteArray& fragment,
                                                                   const QJsonObject& uniforms, const QString& folder,
                                                                   const std::vector<ShadedPlace>& places,
                                                                   const std::array<float, 3>& eye, QString& why) {
  QByteArray source = fragment;
  source.replace("precision mediump float;", "precision highp float;\nprecision highp sampler2D;");
  QStringList taken;
  static const QRegularExpression kTaken(QStringLiteral("^in (\\w+ \\w+);"), QRegularExpression::MultilineOption);
  for (auto it = kTaken.globalMatch(QString::fromUtf8(source)); it.hasNext();) taken << it.next().captured(1);
  const auto count = static_cast<GLsizei>(places.size());
  const GLuint vertex = compiled(GL_VERTEX_SHADER, vertex_shader(taken, count), why);
  const GLuint pixel = vertex ? compiled(GL_FRAGMENT_SHADER, source, why) : 0;
  if (!pixel) return {};
  const GLuint program = glCreateProgram();
  glAttachShader(program, vertex), glAttachShader(program, pixel);
  glLinkProgram(program);
  glUseProgram(program);
  if (!set_uniforms(program, uniforms, folder, eye)) {
    why = QStringLiteral("an image cannot be read");
    return {};
  }
  for (const QString& in : taken) {
    const QString name = in.section(QLatin1Char(' '), 1);
    const GLint at = glGetAttribLocation(program, ("a_" + name.toUtf8()).constData());
    if (at < 0) continue;
    const std::vector<float> all = attribute(name, places);
    GLuint buffer = 0;
    glGenBuffers(1, &buffer);
    glBindBuffer(GL_ARRAY_BUFFER, buffer);
    glBufferData(GL_ARRAY_BUFFER, static_cast<GLsizeiptr>(all.size() * sizeof(float)), all.data(), GL_STATIC_DRAW);
    glEnableVertexAttribArray(static_cast<GLuint>(at));
    glVertexAttribPointer(static_cast<GLuint>(at), static_cast<GLint>(all.size() / places.size()), GL_FLOAT, GL_FALSE,
                          0, nullptr);
  }
  GLuint target = 0, frame = 0;
  glGenTextures(1, &target), glGenFramebuffers(1, &frame);
  glActiveTexture(GL_TEXTURE15);
  glBindTexture(GL_TEXTURE_2D, target);
  glTexImage2D(GL_TEXTURE_2D, 0, GL_RGBA32F, count, 1, 0, GL_RGBA, GL_FLOAT, nullptr);
  glBindFramebuffer(GL_FRAMEBUFFER, frame);
  glFramebufferTexture2D(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GL_TEXTURE_2D, target, 0);
  glViewport(0, 0, count, 1);
  glDrawArrays(GL_POINTS, 0, count);
  std::vector<std::array<float, 4>> out(places.size());
  glReadPixels(0, 0, count, 1, GL_RGBA, GL_FLOAT, out.data());
  if (const GLenum wrong = glGetError()) {
    why = QStringLiteral("the renderer refuses: %1").arg(wrong);
    return {};
  }
  return out;
}

}  // namespace loom::test
