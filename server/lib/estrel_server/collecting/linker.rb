# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Carries out links between identifiers, as {Estrel::Identity} decides them, and records what was done.
    #
    # To be used inside a transaction that holds the ingest turn.
    class Linker
      # @param identity [Importing::Identity]
      def initialize(identity)
        @identity = identity
      end

      # @param fact [Fact] of kind "link"
      # @param receipt_id [Integer]
      # @return [String, nil] the reason where the link was refused
      def link(fact, receipt_id)
        one = fact.subject
        other = fact.data["same_as"]
        parties = parties(one, other)
        decision = Estrel::Identity.decide(*parties)
        record = Link.create!(receipt_id: receipt_id, one: one, other: other, outcome: decision.action.to_s,
                              occurred_at: fact.occurred_at, received_at: fact.received_at)
        profile = carry_out(decision, record, one, other)
        record.update!(profile_id: profile) if profile
        decision.reason
      end

      private

      def parties(one, other)
        held = @identity.lookup([one, other])
        types = types(held.values.uniq)
        [one, other].map do |identifier|
          profile = held[identifier]
          customer, type = types[profile]
          Estrel::Identity::Party.new(identifier: identifier, profile: profile, customer: customer, type: type)
        end
      end

      # @return [Hash{Integer => Array}] customer identifier and type of each profile
      def types(profiles)
        names = IdentifierKind.pluck(:id, :name).to_h
        rows = Identifier.where(profile_id: profiles).pluck(:profile_id, :identifier_kind_id, :value)
                         .map { |profile, kind, value| [profile, names.fetch(kind), value] }
        rows.group_by(&:first).transform_values do |held|
          customer = held.find { |_, kind, _| kind == "customer" }
          type = held.all? { |_, name, _| name == "visitor" } ? "visitor" : "contact"
          customer ? ["customer:#{customer.last}", "customer"] : [nil, type]
        end
      end

      # @return [Integer, nil] the profile that has both identifiers now
      def carry_out(decision, record, one, other)
        case decision.action
        when :made then make([one, other], record)
        when :attached then decision.into.tap { |profile| attach([decision.identifier], profile, record) }
        when :merged then merge(decision.from, decision.into, record)
        when :moved then move(decision, record, [one, other] - [decision.identifier])
        when :same then decision.into
        end
      end

      def make(identifiers, record)
        @identity.create(1).first.tap { |profile| attach(identifiers, profile, record) }
      end

      def attach(identifiers, profile, record)
        since = record.occurred_at.strftime("%Y-%m-%d %H:%M:%S.%6N")
        @identity.attach(identifiers.to_h { |identifier| [identifier, profile] },
                         identifiers.to_h { |identifier| [identifier, since] })
      end

      # Where both have a value of one attribute for the same instant, the one that is kept wins; the other is recorded.
      def merge(from, into, record)
        before = { "from" => Portrait.of(from), "into" => Portrait.of(into) }
        connection = Record.connection
        %w[identifiers consents].each do |table|
          connection.execute("UPDATE #{table} SET profile_id = #{into} WHERE profile_id = #{from}")
        end
        connection.execute("UPDATE events SET origin_profile_id = COALESCE(origin_profile_id, profile_id), " \
                           "profile_id = #{into} WHERE profile_id = #{from}")
        connection.execute("UPDATE IGNORE attribute_values SET profile_id = #{into} WHERE profile_id = #{from}")
        before["dropped"] = drop_values(from)
        Profile.where(merged_into_id: from).or(Profile.where(id: from)).update_all(merged_into_id: into)
        Merge.create!(link: record, from_profile_id: from, into_profile_id: into, before: before,
                      merged_at: Time.now.utc)
        owners_changed
        into
      end

      def drop_values(profile)
        rows = AttributeValue.where(profile_id: profile).joins(:attribute_definition)
        rows.pluck("attribute_definitions.name", :occurred_at, "attribute_values.value")
            .map { |name, at, value| { "attribute" => name, "occurred_at" => at.iso8601(6), "value" => value } }
            .tap { AttributeValue.where(profile_id: profile).delete_all }
      end

      # The device goes; what it did before stays with whom it belonged to.
      def move(decision, record, others)
        into = decision.into || make(others, record)
        kind, value = Importing::Identifiers.split(decision.identifier)
        identifier = Identifier.joins(:identifier_kind).find_by!(identifier_kinds: { name: kind }, value: value)
        identifier.update!(profile_id: into, since: record.occurred_at)
        IdentifierMove.create!(identifier: identifier, link: record, from_profile_id: decision.from,
                               to_profile_id: into, moved_at: Time.now.utc)
        owners_changed
        into
      end

      def owners_changed
        IngestTurn.owners_changed
        @identity.forget_uncommitted
      end
    end
  end
end
