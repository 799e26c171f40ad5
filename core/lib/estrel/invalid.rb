# frozen_string_literal: true

module Estrel
  # What somebody gave cannot be used. `errors` lists every fault as `{place:, message:}`, the place being a path such
  # as `all[1].did.where[0].property`.
  class Invalid < Error
    # @return [Array<Hash{Symbol => String}>]
    attr_reader :errors

    # @param errors [Array<Hash{Symbol => String}>]
    def initialize(errors)
      @errors = errors.freeze
      super(errors.map { |error| error[:message] }.join("; "))
    end

    # @param place [String]
    # @param message [String]
    # @return [Invalid]
    def self.at(place, message) = new([{ place: place, message: message }])
  end
end
