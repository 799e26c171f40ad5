# frozen_string_literal: true

module EstrelServer
  module LiveEvents
    # What has been received, newest first: events, facts of the reserved types, and what was refused.
    #
    # Three tables stand behind it, each with its own numbers. A cursor holds one number per table, so that "everything
    # after" and "everything before" are told exactly.
    class Feed
      KINDS = %w[event receipt refusal].freeze
      OUTCOMES = { "stored" => %w[event receipt], "refused" => %w[refusal] }.freeze
      TYPES = Collecting::FactReader::KINDS.invert.freeze

      # Where a reader stands: the newest number seen per table.
      Cursor = Struct.new(*KINDS.map(&:to_sym)) do
        # @param text [String, nil] "12-3-4"
        # @return [Cursor, nil]
        def self.read(text)
          new(*text.split("-").map { |part| Integer(part, 10) }) if text.to_s.match?(/\A\d{1,18}-\d{1,18}-\d{1,18}\z/)
        end

        # @return [Cursor] of what there is now
        def self.now = new(Event.maximum(:id) || 0, Receipt.maximum(:id) || 0, Refusal.maximum(:id) || 0)

        # @return [String]
        def to_s = to_a.join("-")
      end

      # @param query [Hash] source, type, identifier and outcome as they stand in an address
      # @return [Feed]
      def self.from(query)
        given = %w[source type identifier outcome].to_h { |name| [name.to_sym, query[name].to_s] }
                                                  .reject { |_, value| value.empty? }
        given.delete(:outcome) unless OUTCOMES.key?(given[:outcome])
        new(**given)
      end

      # @param source [String, nil]
      # @param type [String, nil]
      # @param identifier [String, nil] kind:value
      # @param outcome [String, nil] of {OUTCOMES}
      def initialize(source: nil, type: nil, identifier: nil, outcome: nil)
        @source = source
        @type = type
        @identifier = identifier
        @kinds = outcome ? OUTCOMES.fetch(outcome) : KINDS
      end

      # @param limit [Integer]
      # @param after [Cursor, nil] only what came later
      # @param up_to [Cursor] nothing beyond it: that is for whoever goes on from there
      # @return [Array<Hash>] newest first
      def rows(limit, up_to:, after: nil)
        found = @kinds.flat_map { |kind| send(:"#{kind}s", scope(kind, limit, after, up_to)) }
        found.sort_by { |row| [row[:received_at], row[:key]] }.reverse.first(limit)
      end

      private

      def scope(kind, limit, after, up_to)
        model = { "event" => Event, "receipt" => Receipt, "refusal" => Refusal }.fetch(kind)
        rows = model.where("#{model.table_name}.id <= ?", up_to[kind.to_sym]).order(id: :desc).limit(limit)
        rows = rows.where("#{model.table_name}.id > ?", after[kind.to_sym]) if after
        rows = rows.where(source_id: Source.where(name: @source).ids) if @source
        rows
      end

      def events(scope)
        scope = scope.where(event_type_id: EventType.where(name: @type).ids) if @type
        scope = scope.where(profile_id: profiles) if @identifier
        rows = scope.includes(:event_type, :source).to_a
        names = names(rows.map(&:profile_id))
        rows.map do |row|
          row(row, "event", type: row.event_type.name, outcome: "stored", occurred_at: row.occurred_at,
                            profile_id: row.profile_id, subject: names[row.profile_id], contents: row.properties)
        end
      end

      def receipts(scope)
        scope = scope.where(kind: Collecting::FactReader::KINDS[@type] || "") if @type
        scope = scope.where(subject: @identifier) if @identifier
        # A link that was refused stands among the refusals, as it was.
        scope = scope.where.not(id: Link.where(outcome: "refused").select(:receipt_id))
        rows = scope.includes(:source).to_a
        holders = holders(rows.map(&:subject))
        facts = Facts.new(rows, holders)
        rows.map do |row|
          row(row, "receipt", type: TYPES.fetch(row.kind), outcome: "stored", occurred_at: row.occurred_at,
                              subject: row.subject, profile_id: holders[row.subject],
                              told: facts.told(row), contents: facts.contents(row))
        end
      end

      def refusals(scope)
        scope = scope.where(event_type: @type) if @type
        scope = scope.where(subject: @identifier) if @identifier
        scope.includes(:source).map do |row|
          row(row, "refusal", type: row.event_type, outcome: "refused", subject: row.subject, reason: row.reason,
                              contents: {}, payload: row.payload)
        end
      end

      def row(record, kind, occurred_at: nil, **others)
        { key: "#{kind}-#{record.id}", received_at: record.received_at.iso8601(6), source: record.source&.name,
          occurred_at: occurred_at&.iso8601(6), profile_id: nil, told: nil, reason: nil, payload: nil, **others }
      end

      def profiles = holders([@identifier]).values

      # @return [Hash{String => Integer}] identifier to profile
      def holders(identifiers)
        pairs = identifiers.compact.uniq.filter_map { |text| text.split(":", 2) if text.include?(":") }
        Identifier.joins(:identifier_kind).where(value: pairs.map(&:last))
                  .pluck("identifier_kinds.name", :value, :profile_id)
                  .to_h { |kind, value, profile| ["#{kind}:#{value}", profile] }.slice(*identifiers)
      end

      # @return [Hash{Integer => String}] one identifier of each profile
      def names(profiles)
        Identifier.joins(:identifier_kind).where(profile_id: profiles.uniq).order(id: :desc)
                  .pluck(:profile_id, "identifier_kinds.name", :value)
                  .to_h { |profile, kind, value| [profile, "#{kind}:#{value}"] }
      end
    end
  end
end
