# frozen_string_literal: true

require "tmpdir"
require_relative "../lib/estrel"
Estrel.eager_load

Dir[File.join(__dir__, "support", "*.rb")].each { |file| require file }

RSpec.configure do |config|
  config.expect_with(:rspec) { |expectations| expectations.include_chain_clauses_in_custom_matcher_descriptions = true }
  config.disable_monkey_patching!
  config.include LedgerHelper
end
