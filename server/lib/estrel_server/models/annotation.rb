# frozen_string_literal: true

module EstrelServer
  # What somebody notes on a date: a release, a change of price, a day on which something was broken. It is drawn on
  # pictures over time.
  class Annotation < Record
    include Owned

    MOST_CHARACTERS = 200

    validates :date, presence: true
    validates :text, presence: true, length: { maximum: MOST_CHARACTERS }
  end
end
