# frozen_string_literal: true

# What a ledger holds, for comparing one with another.
module LedgerContents
  def contents(generation)
    generation.catalogue.event_types.keys.to_h { |type| [type, generation.events(type).rows] }
              .merge("profiles" => generation.profiles.rows, "history" => generation.attribute_history.rows, "spine" => generation.spine.rows)
  end

  # Everything of it, and what it says of itself.
  def all_of(generation)
    facts = generation.facts.slice("event_count", *%w[occurred received].flat_map { |at| ["oldest_#{at}_at", "newest_#{at}_at"] }, "set_aside", "read_as")
    contents(generation).merge("reach" => generation.reach.rows, "origins" => generation.origins.rows.sort, "renamed" => generation.renamed.rows.sort,
                               "facts" => facts, "counts" => generation.catalogue.event_types.transform_values(&:count))
  end
end
