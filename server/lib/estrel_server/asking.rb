# frozen_string_literal: true

module EstrelServer
  # Reads definitions and policies with the audiences and policies of this workspace at hand, and tells which refer to
  # which.
  module Asking
    module_function

    # @param source [String, Hash] a definition
    # @param catalogue [Estrel::Catalogue]
    # @param of [Audience, nil] whose definition it is going to be, so that it cannot refer to itself
    # @return [Estrel::Audience::Definition]
    # @raise [Estrel::Audience::Invalid]
    def definition(source, catalogue, of: nil)
      path = of ? [[of.id, of.name]] : []
      policies = policies(catalogue)
      audiences = Estrel::Audience::AudienceSource.new(catalogue, method(:stored), path, policies)
      Estrel::Audience::Definition.parse(source.is_a?(Hash) ? JSON.generate(source) : source,
                                         catalogue: catalogue, audiences: audiences, policies: policies)
    rescue JSON::GeneratorError
      raise Estrel::Audience::Invalid, [{ place: "", message: "numbers must be finite" }]
    end

    # @param rules [Hash, nil] JSON of {Estrel::Lifecycle::Policy#to_h}
    # @param catalogue [Estrel::Catalogue]
    # @param of [LifecyclePolicy, nil] whose rules they are
    # @return [Estrel::Lifecycle::Policy, nil] nil while there is no event type that could count
    # @raise [Estrel::Lifecycle::Policy::Invalid]
    def policy(rules, catalogue, of: nil)
      return if rules.nil? || (of&.new_record? && rules["activity"].empty?)

      policies(catalogue).build(rules, id: of&.id, name: of&.name)
    end

    # @param audience [Audience]
    # @param audience [Audience]
    # @return [Hash{String => String}] what uses it: names of kept audiences with their sentences, of policies about it,
    #   and of exports that hand it over
    def users_of(audience)
      others = Audience.kept.includes(:versions).where.not(id: audience.id)
      others = others.select { |other| referred(other.current.definition).include?(audience.id) }
      policies = LifecyclePolicy.kept.includes(:versions)
      policies = policies.select { |policy| policy.rules_json["population"] == audience.id }
      { **sentences(others), **policies.to_h { |policy| [policy.name, "a lifecycle policy about it"] },
        **Export.kept.where(audience: audience).to_h { |export| [export.name, "an export of it"] } }
    end

    # @param policy [LifecyclePolicy]
    # @return [Hash{String => String}] names of kept audiences whose newest definition names it, with their sentences
    def users_of_policy(policy)
      rows = Audience.kept.includes(:versions)
      sentences(rows.select { |row| named_policies(row.current.definition).include?(policy.id) })
    end

    def sentences(audiences) = audiences.to_h { |row| [row.name, row.current.sentence] }
    private_class_method :sentences

    # @return [Hash{Integer => Integer}] how many kept audiences, policies and export plans use each audience
    def uses
      named = Audience.kept.includes(:versions).flat_map { |row| referred(row.current.definition).uniq }
      about = LifecyclePolicy.kept.includes(:versions).filter_map { |policy| policy.rules_json["population"] }
      (named + about + Export.kept.pluck(:audience_id)).tally
    end

    def policies(catalogue)
      Estrel::Audience::PolicySource.new(catalogue, method(:stored_policy), method(:stored))
    end
    private_class_method :policies

    def stored(id)
      row = Audience.kept.find_by(id: id)
      row && [row.name, row.current.definition]
    end
    private_class_method :stored

    # Also of a policy that has been deleted, since a version of it may be meant.
    def stored_policy(id, version)
      row = LifecyclePolicy.includes(:versions).find_by(id: id)
      rules = row&.rules_json(version)
      rules && [row.name, rules]
    end
    private_class_method :stored_policy

    # @return [Array<Integer>] numbers of the audiences a definition refers to
    def referred(node) = clauses(node, "audience").map { |body| body["id"] }
    private_class_method :referred

    # @return [Array<Integer>] numbers of the policies a definition names
    def named_policies(node) = clauses(node, "lifecycle").filter_map { |body| body.dig("policy", "id") }
    private_class_method :named_policies

    def clauses(node, wanted)
      kind, body = node.first
      case kind
      when "all", "any" then body.flat_map { |child| clauses(child, wanted) }
      when "not" then clauses(body, wanted)
      when wanted then [body]
      else []
      end
    end
    private_class_method :clauses
  end
end
