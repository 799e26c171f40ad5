# frozen_string_literal: true

module Estrel
  # How likely people are to do something, as learned from what people like them did.
  module Propensity
    # To *come back*: those who are dormant or churned, by any activity within the days. To *lapse*: those who are new
    # or active, by being dormant or churned at the end of the days.
    KINDS = %w[come_back lapse].freeze
  end
end
