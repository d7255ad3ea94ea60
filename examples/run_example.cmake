# Runs PROGRAM; fails where its exit code is not 0 or its output does not match EXPECTED.
execute_process(COMMAND ${PROGRAM} OUTPUT_VARIABLE said ERROR_VARIABLE said RESULT_VARIABLE code)
message("${said}")
if(NOT code EQUAL 0)
  message(FATAL_ERROR "exit code ${code}")
endif()
if(NOT said MATCHES "${EXPECTED}")
  message(FATAL_ERROR "the output does not match: ${EXPECTED}")
endif()
