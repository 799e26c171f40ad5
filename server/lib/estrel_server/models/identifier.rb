# frozen_string_literal: true

module EstrelServer
  # A name a profile is known by; each value of a kind belongs to one profile.
  class Identifier < Record
    belongs_to :profile
    belongs_to :identifier_kind
    belongs_to :source, optional: true

    # @return [String] kind:value
    def to_s = "#{identifier_kind.name}:#{value}"
  end
end
