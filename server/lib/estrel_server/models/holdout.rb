# frozen_string_literal: true

module EstrelServer
  # Who is held out of exports to measure against; several plans can share one. What it holds out cannot be changed, or
  # those held out so far would be messaged. The rule is {Estrel::Handover::Holdout}.
  class Holdout < Record
    validates :name, presence: true, length: { maximum: 255 }, uniqueness: true
    validates :share, numericality: { in: 0..1 }, allow_nil: true
    validates :number, numericality: { only_integer: true, in: 0..1_000_000_000 }, allow_nil: true
    validate :says_how_many

    # The rule for some people left to be handed over. A number is made a share of them once, by the first run that
    # asks with `keep`, and stays what it was then.
    #
    # @param ids [Polars::Series] profile ids
    # @param keep [Boolean]
    # @return [Estrel::Handover::Holdout]
    def rule(ids, keep: false)
      return Estrel::Handover::Holdout.share(name, share) if share
      return Estrel::Handover::Holdout.new(name, places) if places

      found = Estrel::Handover::Holdout.number(name, number, ids.to_a)
      update!(places: found.limit) if keep
      found
    end

    private

    def says_how_many
      errors.add(:base, "say what share or what number is held out") if share.nil? == number.nil?
    end
  end
end
