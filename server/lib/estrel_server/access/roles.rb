# frozen_string_literal: true

module EstrelServer
  module Access
    # What accounts and tokens can be for.
    module Roles
      # From the least to the most that can be done.
      ALL = %w[viewer analyst administrator].freeze
      # What a token can be for, and the role that holds each right.
      BY_SCOPE = { "read" => "viewer", "write" => "analyst", "administer" => "administrator" }.freeze
    end
  end
end
