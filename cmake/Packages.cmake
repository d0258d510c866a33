# SPDX-License-Identifier: GPL-3.0-or-later
find_package(PkgConfig REQUIRED)
find_package(Threads REQUIRED)
find_package(nlohmann_json 3.11 REQUIRED)
find_package(tl-expected REQUIRED)
find_package(CLI11 REQUIRED)
pkg_check_modules(FFMPEG REQUIRED IMPORTED_TARGET
  libavformat>=59 libavcodec>=59 libavutil>=57 libswscale>=6 libswresample>=4)
pkg_check_modules(AVFILTER REQUIRED libavfilter>=8) # for its headers; loaded when it is needed, see FilterGraph
pkg_check_modules(ZIMG REQUIRED IMPORTED_TARGET zimg>=3.0)
pkg_check_modules(WEBP REQUIRED IMPORTED_TARGET libwebpdemux)
pkg_check_modules(SYSTEMD REQUIRED IMPORTED_TARGET libsystemd) # for its D-Bus client
pkg_check_modules(HTTPLIB REQUIRED IMPORTED_TARGET cpp-httplib)
pkg_check_modules(RUBBERBAND REQUIRED IMPORTED_TARGET rubberband>=3)
pkg_check_modules(SAMPLERATE REQUIRED IMPORTED_TARGET samplerate)
pkg_check_modules(EBUR128 REQUIRED IMPORTED_TARGET libebur128)
# By hand: the package's own list would bring every module in, windows of another toolkit among them.
find_path(OPENCV_INCLUDE opencv2/imgproc.hpp PATH_SUFFIXES opencv4 REQUIRED)
add_library(tromb_opencv INTERFACE)
target_include_directories(tromb_opencv SYSTEM INTERFACE ${OPENCV_INCLUDE})
foreach(module video imgproc core)
  find_library(OPENCV_${module} opencv_${module} REQUIRED)
  target_link_libraries(tromb_opencv INTERFACE ${OPENCV_${module}})
endforeach()
find_path(DLIB_INCLUDE dlib/image_processing.h REQUIRED)
foreach(library dlib lapack blas) # the last two are used from its headers
  find_library(DLIB_${library} ${library} REQUIRED)
  list(APPEND DLIB_LIBRARIES ${DLIB_${library}})
endforeach()
add_library(tromb_dlib INTERFACE)
target_include_directories(tromb_dlib SYSTEM INTERFACE ${DLIB_INCLUDE})
target_link_libraries(tromb_dlib INTERFACE ${DLIB_LIBRARIES})
find_library(GLPK_LIBRARY glpk REQUIRED)
find_package(Qt6 6.4 REQUIRED COMPONENTS Core DBus Gui Widgets Svg Multimedia Test)
# Debian keeps Qt's own programs beside its library and not on the path.
find_program(LRELEASE NAMES lrelease HINTS ${QT6_INSTALL_PREFIX}/${QT6_INSTALL_BINS} /usr/lib/qt6/bin REQUIRED)
pkg_check_modules(PANGOCAIRO REQUIRED IMPORTED_TARGET pangocairo pangoft2 fontconfig)
qt_standard_project_setup()
set(CMAKE_AUTOMOC OFF) # those that need it say so
set(CMAKE_AUTOUIC OFF)
