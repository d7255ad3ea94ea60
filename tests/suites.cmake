# Writes a test for each suite of a program: cmake -DPROGRAM=... -DOUT=... -DPROPERTIES="NAME VALUE ..." -P suites.cmake.
# Not one for each test: starting the program would take a third of the time.
execute_process(COMMAND ${PROGRAM} --gtest_list_tests OUTPUT_VARIABLE listed COMMAND_ERROR_IS_FATAL ANY)
string(REGEX MATCHALL "(^|\n)[^ \n][^\n]*\\.(\n|  #)" suites "\n${listed}")
set(text "")
foreach(suite IN LISTS suites)
  string(REGEX REPLACE "^\n*([^ \n]*)\\..*$" "\\1" suite "${suite}")
  if(NOT suite MATCHES "DISABLED_")
    string(APPEND text "add_test([=[${suite}]=] [=[${PROGRAM}]=] [=[--gtest_filter=${suite}.*]=] --gtest_brief=1)\n"
                       "set_tests_properties([=[${suite}]=] PROPERTIES ${PROPERTIES})\n")
  endif()
endforeach()
file(WRITE ${OUT} "${text}")
