# frozen_string_literal: true

module EstrelServer
  # The record that one person was erased on request: when, why, and how much went; nothing about who it was.
  class Erasure < Record
    attribute :removed, :json
  end
end
