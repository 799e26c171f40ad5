# frozen_string_literal: true

require "timeout"

# An example that waits for what never comes fails, instead of holding up all that follow it. None takes half as long.
RSpec.configure do |config|
  config.around { |example| Timeout.timeout(20 * 60) { example.run } }
end
