# What every target shares: warnings, compiler cache, linker, sanitized twins, and the rule about who may include whom.
find_program(CCACHE ccache)
if(CCACHE)
  set(CMAKE_CXX_COMPILER_LAUNCHER ${CCACHE})
endif()
find_program(MOLD mold)
if(MOLD)
  add_link_options(-fuse-ld=mold)
endif()
add_compile_options(-Wall -Wextra -Wpedantic -Wconversion -ffp-contract=off)
if(FEXEL_WERROR)
  add_compile_options(-Werror)
endif()
# Sanitized and plain code hand matrices to each other, so both have to get their memory in the same way.
add_compile_definitions(EIGEN_MALLOC_ALREADY_ALIGNED=1)
# g++ 12 warns of copies in std::string that cannot happen (its bug 105329).
add_compile_options(-Wno-stringop-overflow -Wno-restrict -Wno-array-bounds)
# What a null, dangling or outlying pointer does the address sanitizer finds; to look at each pointer twice makes code that is
# made of templates half as large again.
set(fexel_sanitizers -fsanitize=address,undefined -fno-sanitize=null,alignment,vptr,object-size -fno-sanitize-recover=all)
if(FEXEL_FUZZ)
  add_compile_options(-w -g1 -fsanitize=fuzzer-no-link,address,undefined -fno-sanitize-recover=all)
  add_link_options(-fsanitize=address,undefined)
endif()
# fexel_layer(NAME SOURCES ... USES ... [INSIDE ...] [OPTIONS ...] [CHECKED ...] [DEFINITIONS ...] [UNITY]): a library from the
# folder it stands in, with OPTIONS for the compiler, or CHECKED for its sanitized twin. Its headers are reached as "NAME/…", and only by targets that link it: the include folder holds a link to this folder
# and to nothing else. INSIDE: libraries that its headers do not show. The lowest layer's precompiled header serves all.
#
# Beside each fexel_NAME stands its twin checked_NAME, under address and undefined-behaviour sanitizers, built only where
# something links it: the tests run against both, and are themselves built once.
function(fexel_layer name)
  cmake_parse_arguments(arg "UNITY" "" "SOURCES;USES;INSIDE;OPTIONS;CHECKED;DEFINITIONS" ${ARGN})
  set(door ${CMAKE_BINARY_DIR}/include/${name})
  file(MAKE_DIRECTORY ${door})
  file(CREATE_LINK ${CMAKE_CURRENT_SOURCE_DIR} ${door}/${name} SYMBOLIC)
  foreach(kind fexel checked)
    set(target ${kind}_${name})
    string(REGEX REPLACE "fexel_" "${kind}_" uses "${arg_USES}")
    add_library(${target} STATIC ${arg_SOURCES})
    target_include_directories(${target} PUBLIC ${door})
    target_link_libraries(${target} PUBLIC ${uses} PRIVATE ${arg_INSIDE})
    target_compile_definitions(${target} PRIVATE ${arg_DEFINITIONS})
    if(arg_UNITY)
      set_target_properties(${target} PROPERTIES UNITY_BUILD ON UNITY_BUILD_BATCH_SIZE 15)
    endif()
    if(kind STREQUAL "checked")
      # Instrumented code makes g++ 12 warn of the standard library; warnings are the plain build's business.
      target_compile_options(${target} PRIVATE -w -O1 -UNDEBUG -fno-omit-frame-pointer ${fexel_sanitizers} ${arg_CHECKED})
      target_link_options(${target} INTERFACE -fsanitize=address,undefined)
      set_target_properties(${target} PROPERTIES EXCLUDE_FROM_ALL ON)
    else()
      target_compile_options(${target} PRIVATE ${arg_OPTIONS})
    endif()
    if(name STREQUAL "base")
      # Other people's headers that most layers read.
      target_link_libraries(${target} PRIVATE Eigen3::Eigen nlohmann_json::nlohmann_json)
      target_precompile_headers(${target} PRIVATE <algorithm> <array> <cmath> <cstdint> <filesystem> <functional> <memory>
                                <optional> <string> <variant> <vector> <fmt/format.h> <Eigen/LU> <nlohmann/json.hpp>)
    else()
      target_precompile_headers(${target} REUSE_FROM ${kind}_base)
    endif()
  endforeach()
endfunction()
