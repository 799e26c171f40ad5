# frozen_string_literal: true

module EstrelServer
  # A share of everybody whom no export messages for some time, most often a quarter, to measure all marketing against.
  # It begins on a day to come, and whom it holds cannot be changed: it can be called off before, and ended early
  # afterwards. There is one at a time.
  class StandingHoldout < Record
    DAYS = 7..366

    validates :share, numericality: { greater_than: 0, less_than_or_equal_to: 0.5 }
    validates :first_day, :last_day, presence: true
    validate :lasts, :alone

    # @param day [Date]
    # @return [StandingHoldout, nil] the one in force on a day
    def self.on(day) = find_by(first_day: ..day, last_day: day..)

    # @return [Estrel::Exports::Holdout] another one than any of exports, and a new one for each first day
    def rule = Estrel::Exports::Holdout.share("standing\n#{first_day}", share)

    # @return [Estrel::Analyses::Stored::StandingHoldout] for what came of it
    def told
      Estrel::Analyses::Stored::StandingHoldout.new(id: id, from: first_day, to: last_day, holdout: rule, share: share)
    end

    # @param today [Date]
    # @return [Boolean]
    def begun?(today) = first_day <= today

    private

    def lasts
      return if first_day.nil? || last_day.nil? || DAYS.cover?((last_day - first_day).to_i + 1)

      errors.add(:base, "A global holdout can last #{DAYS.min} to #{DAYS.max} days")
    end

    def alone
      return if first_day.nil? || last_day.nil?

      other = self.class.where.not(id: id).find_by(first_day: ..last_day, last_day: first_day..) or return
      days = [other.first_day, other.last_day].map { |day| Estrel::English.date(day) }.join(" to ")
      errors.add(:base, "Only one global holdout can run at a time; there is already one for #{days}")
    end
  end
end
