# frozen_string_literal: true

module EstrelServer
  # The record that one person was erased on request: when, why, and how much went; nothing about who it was.
  class Erasure < Record
    attribute :removed, :json

    # @param mark [Integer] id of the newest erasure that was heeded already
    # @return [Array<Integer>] profiles that were erased since
    def self.profiles_since(mark) = where("id > ?", mark).flat_map { |row| row.removed.fetch("profiles", []) }

    # @return [Integer] id of the newest erasure; 0 without any
    def self.mark = maximum(:id) || 0
  end
end
