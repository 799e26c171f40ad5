# frozen_string_literal: true

module EstrelServer
  # Reads definitions with the audiences of this workspace at hand, and tells which refer to which.
  module Asking
    module_function

    # @param source [String, Hash] a definition
    # @param catalogue [Estrel::Catalogue]
    # @param of [Audience, nil] whose definition it is going to be, so that it cannot refer to itself
    # @return [Estrel::Audience::Definition]
    # @raise [Estrel::Audience::Invalid]
    def definition(source, catalogue, of: nil)
      path = of ? [[of.id, of.name]] : []
      audiences = Estrel::Audience::AudienceSource.new(catalogue, method(:stored), path)
      Estrel::Audience::Definition.parse(source.is_a?(Hash) ? JSON.generate(source) : source, catalogue: catalogue,
                                                                                              audiences: audiences)
    rescue JSON::GeneratorError
      raise Estrel::Audience::Invalid, [{ place: "", message: "numbers must be finite" }]
    end

    # @param audience [Audience]
    # @return [Array<Audience>] kept audiences whose newest definition refers to it
    def users_of(audience)
      Audience.kept.includes(:versions).where.not(id: audience.id).select do |other|
        referred(other.current.definition).include?(audience.id)
      end
    end

    # @return [Hash{Integer => Integer}] how many kept audiences and export plans use each audience
    def uses
      named = Audience.kept.includes(:versions).flat_map { |row| referred(row.current.definition).uniq }
      (named + Export.pluck(:audience_id)).tally
    end

    def stored(id)
      row = Audience.kept.find_by(id: id)
      row && [row.name, row.current.definition]
    end
    private_class_method :stored

    # @return [Array<Integer>] numbers of the audiences a definition refers to
    def referred(node)
      kind, body = node.first
      case kind
      when "all", "any" then body.flat_map { |child| referred(child) }
      when "not" then referred(body)
      when "audience" then [body["id"]]
      else []
      end
    end
    private_class_method :referred
  end
end
