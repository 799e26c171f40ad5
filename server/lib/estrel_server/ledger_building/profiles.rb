# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Builds the ledger's profiles: type, identifiers, current attributes and when each was first seen.
    class Profiles
      SELECT = <<~SQL
        SELECT p.id, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', COALESCE(
          (SELECT MIN(i.since) FROM identifiers i WHERE i.profile_id = p.id), p.created_at))
        FROM profiles p WHERE p.merged_into_id IS NULL AND
      SQL
      IDENTIFIERS = <<~SQL
        SELECT i.profile_id, k.name, i.value FROM identifiers i JOIN identifier_kinds k ON k.id = i.identifier_kind_id
        WHERE %s ORDER BY i.id
      SQL
      # Those that somebody has, whoever is written: all pieces have the same columns.
      KINDS = "SELECT name FROM identifier_kinds k WHERE EXISTS " \
              "(SELECT 1 FROM identifiers i WHERE i.identifier_kind_id = k.id) ORDER BY id"

      # @param catalogue [Estrel::Catalogue]
      # @param dump [Dump]
      def initialize(catalogue, dump)
        @catalogue = catalogue
        @dump = dump
      end

      # @param history [Polars::DataFrame] of all attributes, in the ledger's order
      # @param reach [Polars::DataFrame] addresses and consents
      # @param firsts [Array<Polars::DataFrame>] first occurrence per profile, one frame per event type
      # @return [Polars::DataFrame] for {Estrel::Ledger::Writer#put_profiles}
      def build(history, reach, firsts)
        frame = with_first_seen(base, [history, reach], firsts)
        frame = with_identifiers(frame)
        with_attributes(frame, history)
      end

      private

      def base
        read(SELECT + @dump.wanted("p.id"), "profile_id" => Polars::Int64, "mentioned_at" => Polars::Int64)
      end

      def read(statement, columns)
        frame = Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)
        @dump.each([statement], columns) { |rows| frame = rows }
        frame
      end

      # A profile is first seen at its earliest event, attribute value, address or consent, or, having none of these,
      # when one of its identifiers was mentioned first.
      def with_first_seen(frame, facts, firsts)
        known = facts.map do |rows|
          rows.group_by("profile_id").agg([Polars.col("occurred_at").min.alias("first_seen_at")])
        end
        all = Polars.concat([*known, *firsts]).group_by("profile_id").agg([Polars.col("first_seen_at").min])
        frame.join(all, on: "profile_id", how: "left")
             .with_columns([Polars.col("first_seen_at").fill_null(Polars.col("mentioned_at"))]).drop("mentioned_at")
      end

      def with_identifiers(frame)
        columns = { "profile_id" => Polars::Int64, "kind" => Polars::String, "value" => Polars::String }
        held = read(format(IDENTIFIERS, @dump.wanted("i.profile_id")), columns)
        kinds = Record.connection.select_values(KINDS)
        kinds.each do |kind|
          first = held.filter(Polars.col("kind") == kind).group_by("profile_id", maintain_order: true)
                      .agg([Polars.col("value").first.alias(Estrel::Ledger::Layout.identifier(kind))])
          frame = frame.join(first, on: "profile_id", how: "left")
        end
        frame.with_columns([profile_type(frame.columns).alias("profile_type")])
      end

      # A customer has a customer ID; a contact some address or custom ID; a visitor nothing but visitor identifiers.
      def profile_type(columns)
        held = columns.grep(/\Aidentifier:/)
        customer, visitor = %w[customer visitor].map { |name| Estrel::Ledger::Layout.identifier(name) }
        addresses = (held - [customer, visitor]).map { |name| Polars.col(name).is_not_null }
        contact = addresses.reduce(:|) || Polars.lit(false)
        reached = Polars.when(contact).then(Polars.lit("contact")).otherwise(Polars.lit("visitor"))
        return reached unless held.include?(customer)

        Polars.when(Polars.col(customer).is_not_null).then(Polars.lit("customer")).otherwise(reached)
      end

      def with_attributes(frame, history)
        @catalogue.attributes.each_value do |field|
          name = Estrel::Ledger::Layout.attribute(field.name)
          newest = history.filter(Polars.col("attribute") == field.name)
                          .group_by("profile_id", maintain_order: true).agg([Polars.col("value").last])
          typed = newest.select([Polars.col("profile_id"),
                                 Estrel::Ledger::Layout.typed(Polars.col("value"), field.type).alias(name)])
          frame = frame.join(typed, on: "profile_id", how: "left")
        end
        frame
      end
    end
  end
end
