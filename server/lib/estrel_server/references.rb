# frozen_string_literal: true

module EstrelServer
  # What refers to what among audiences, rule sets, exports and pages: an audience to the audiences and rule sets its
  # definition names, a rule set to the audience it is about, an export to the audience it exports, a page to the saved
  # analyses and audiences it shows.
  #
  # Two rules follow. What is used cannot be deleted. And whoever sees a thing sees what it is made of: something
  # private can be used only by what is private to the same person.
  module References
    SOMEBODY_ELSES = "a private item of another user"

    module_function

    # @param thing [Audience, RuleSet, Export, Page]
    # @return [Array<Audience, RuleSet, SavedAnalysis>] what it is made of
    def of(thing)
      case thing
      when Audience then of_definition(thing.current&.definition)
      when RuleSet then audiences([thing.rules_json&.fetch("population", nil)].compact)
      when Export then [thing.audience, *of_definition(thing.version&.definition)].compact.uniq
      when Page then thing.parts.filter_map(&:used).uniq
      else []
      end
    end

    # @param thing [Audience, RuleSet, SavedAnalysis]
    # @return [Array<Audience, RuleSet, Export, Page>] what is made of it and has not been deleted, whoever's it is
    def users_of(thing)
      audiences, rule_sets = [Audience, RuleSet].map do |model|
        model.where(deleted_at: nil).includes(:versions, :owner)
      end
      exports = Export.where(deleted_at: nil).includes(:audience, :pinned_version, :owner)
      pages = Page.where(deleted_at: nil).includes(:owner)
      [*audiences, *rule_sets, *exports, *pages].select { |other| other != thing && of(other).include?(thing) }
    end

    # @param thing [Audience, RuleSet]
    # @return [Array<Hash>] `place` and `message` for whoever asks: what is made of it, without names of what they may
    #   not see
    def told(thing)
      users_of(thing).map do |user|
        next { place: SOMEBODY_ELSES, message: "uses it" } unless user.class.visible.exists?(user.id)

        { place: user.name, message: message(user) }
      end
    end

    def message(user)
      case user
      when Audience then Access::Disclosure.sentence(user.current)
      when Export then "an export of it"
      when Page then "a page that shows it"
      else "a rule set about it"
      end
    end
    private_class_method :message

    # @return [Hash{Integer => Integer}] how many kept audiences, rule sets and exports use each audience
    def uses
      users = [Audience, RuleSet].flat_map { |model| model.where(deleted_at: nil).includes(:versions).to_a } +
              Export.where(deleted_at: nil).includes(:audience, :pinned_version).to_a
      users.flat_map { |user| of(user).grep(Audience).map(&:id) }.tally
    end

    # @param thing [Audience, RuleSet, Export]
    # @param private [Boolean] whether it is, or is going to be
    # @return [void]
    # @raise [Error] where it uses something that not everybody sees who sees the thing itself
    def check(thing, private: thing.private)
      hidden = of(thing).find { |used| used.private && !(private && thing.owner_id == used.owner_id) } or return
      name = hidden.class.visible.exists?(hidden.id) ? "\"#{hidden.name}\"" : SOMEBODY_ELSES
      raise Error, "this uses #{name}, which is private; share it first, or make this private"
    end

    # @param thing [Audience, RuleSet]
    # @return [void]
    # @raise [Error] where it is used by something that others see
    def check_private(thing)
      users = users_of(thing).reject { |user| user.private && user.owner_id == thing.owner_id }
      return if users.empty?

      names = users.map { |user| user.class.visible.exists?(user.id) ? "\"#{user.name}\"" : SOMEBODY_ELSES }.uniq
      raise Error, "this is used by #{names.join(", ")}, so it cannot be private"
    end

    def of_definition(json)
      return [] if json.nil?

      audiences(bodies(json, "audience").map { |body| body["id"] }) +
        RuleSet.where(id: bodies(json, "lifecycle").filter_map { |body| body.dig("rule_set", "id") }).to_a
    end
    private_class_method :of_definition

    def audiences(ids) = ids.empty? ? [] : Audience.where(id: ids).to_a
    private_class_method :audiences

    def bodies(node, wanted)
      kind, body = node.first
      case kind
      when "all", "any" then body.flat_map { |child| bodies(child, wanted) }
      when "not" then bodies(body, wanted)
      when wanted then [body]
      else []
      end
    end
    private_class_method :bodies
  end
end
