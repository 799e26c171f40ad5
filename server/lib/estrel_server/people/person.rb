# frozen_string_literal: true

module EstrelServer
  class People
    # What is known of one person as of a date, read from the store.
    class Person
      # @return [Profile]
      attr_reader :profile

      # @param id [Integer] also of a profile that has become part of another one; that one is shown then
      # @param question [Question]
      # @raise [ActiveRecord::RecordNotFound]
      def initialize(id, question)
        @profile = Profile.find(id)
        @profile = @profile.merged_into while @profile.merged_into
        @question = question
      end

      # @return [Hash] identifiers with since when, state, attributes with when they last changed, consent, event types
      #   with counts, and how the person came to be one
      def to_h
        summary = @question.people.describe_ids([@profile.id]).first
        { id: @profile.id, known_by_then: !summary.nil?, summary: summary, identifiers: identifiers,
          attributes: attributes, consents: consents, event_types: event_types,
          received_at: @profile.created_at.iso8601(6), **People::Origins.new(@profile).to_h }
      end

      # @return [People::Timeline]
      def timeline = People::Timeline.new(@profile, @question.ledger.calendar, @question.as_of, catalogue)

      # Every kept audience, and whether the person is in it.
      #
      # @return [Array<Hash>] one whose names are not there any more has a fault instead
      def audiences
        why = @question.why(@profile.id)
        Audience.kept.includes(:versions).order(:name).map do |row|
          { id: row.id, name: row.name, sentence: Access::Disclosure.sentence(row.current),
            member: why.member?(Answers::Asking.definition(row.current.definition, @question.catalogue)), fault: nil }
        rescue Estrel::Audience::Invalid => e
          { id: row.id, name: row.name, sentence: Access::Disclosure.sentence(row.current), member: nil, fault: e.message }
        end
      end

      private

      def catalogue = @question.catalogue

      def end_of_date = Time.at(0, @question.ledger.calendar.end_of(@question.as_of), :usec).utc

      def identifiers
        @profile.identifiers.includes(:identifier_kind, :source).order(:id).map do |row|
          { kind: row.identifier_kind.name, value: Access::Disclosure.value(row.value), since: row.since.iso8601(6),
            source: row.source&.name }
        end
      end

      # The newest value of every attribute, and when it took on that value.
      def attributes
        rows = @profile.attribute_values.joins(:attribute_definition).where("occurred_at < ?", end_of_date)
                       .order(:occurred_at).pluck("attribute_definitions.name", "attribute_values.value", :occurred_at)
        rows.group_by(&:first).sort.map do |name, history|
          history = history.map { |_, _, at| [name, Access::PersonalData::MASK, at] } unless shown?(name)
          value = history.last[1]
          since = history.reverse.take_while { |_, earlier, _| earlier == value }.last[2]
          values = history.chunk_while { |before, after| before[1] == after[1] }.map(&:first)
          { name: name, value: value, since: since.iso8601(6), changes: values.size,
            history: values.map { |_, earlier, at| { value: earlier, at: at.iso8601(6) } } }
        end
      end

      def shown?(attribute) = Access::Disclosure.attribute?(catalogue, attribute)

      # The newest word per channel.
      def consents
        rows = @profile.consents.where("consents.occurred_at < ?", end_of_date).order(:occurred_at, :id)
                       .includes(receipt: :source)
        rows.group_by(&:channel).sort.map do |channel, history|
          newest = history.last
          { channel: channel, given: newest.given, since: newest.occurred_at.iso8601(6),
            evidence: Access::Disclosure.value(newest.evidence), source: newest.receipt.source.name,
            changes: history.size }
        end
      end

      def event_types
        counts = @profile.events.where("occurred_at < ?", end_of_date).group(:event_type_id)
                         .pluck(:event_type_id, Arel.sql("COUNT(*)"), Arel.sql("MIN(occurred_at)"),
                                Arel.sql("MAX(occurred_at)"))
        types = EventType.where(id: counts.map(&:first)).index_by(&:id)
        rows = counts.map do |id, count, first, last|
          { name: types[id].name, not_activity: types[id].not_activity, count: count, first: first.iso8601(6),
            last: last.iso8601(6) }
        end
        rows.sort_by { |row| [-row[:count], row[:name]] }
      end
    end
  end
end
