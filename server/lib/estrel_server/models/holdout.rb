# frozen_string_literal: true

module EstrelServer
  # Who is in the holdout of exports to measure against; several exports can share one. Whom it holds cannot be changed,
  # or the holdout so far would be messaged. The rule is {Estrel::Exports::Holdout}.
  class Holdout < Record
    include Named

    validates :name, uniqueness: true
    validates :share, numericality: { in: 0..1 }, allow_nil: true
    validates :number, numericality: { only_integer: true, in: 0..1_000_000_000 }, allow_nil: true
    validate :says_how_many

    # The rule for some people left to be exported. A number is made a share of them once, by the first run that
    # asks with `keep`, and stays what it was then.
    #
    # @param ids [Polars::Series] profile ids
    # @param keep [Boolean]
    # @return [Estrel::Exports::Holdout]
    def rule(ids, keep: false)
      return Estrel::Exports::Holdout.share(name, share) if share
      return Estrel::Exports::Holdout.new(name, places) if places

      found = Estrel::Exports::Holdout.number(name, number, ids.to_a)
      update!(places: found.limit) if keep
      found
    end

    # @return [Float, nil] the share that is meant to be held back; nil before the first run of a number
    def planned = share || places&.fdiv(Estrel::Exports::Holdout::PLACES)

    private

    def says_how_many
      errors.add(:base, "Choose the share or the number of people in the holdout") if share.nil? == number.nil?
    end
  end
end
