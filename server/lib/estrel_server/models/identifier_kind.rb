# frozen_string_literal: true

module EstrelServer
  # What an identifier can be: the four of every workspace, and custom IDs declared by name.
  class IdentifierKind < Record
    STANDARD = %w[customer visitor email phone].freeze

    validates :name, format: { with: /\A[a-z][a-z0-9_]{0,63}\z/, message: "must be lower-case letters, digits and _" }

    # @return [Hash{String => Integer}] name to id, the standard kinds always among them
    def self.ids
      known = pluck(:name, :id).to_h
      (STANDARD - known.keys).each { |name| known[name] = create!(name: name).id }
      known
    end

    # @param names [Array<String>] custom IDs to make known
    # @return [void]
    def self.declare(names)
      (names - ids.keys).each { |name| create!(name: name) }
    end
  end
end
