# frozen_string_literal: true

module FerrowickPost
  # How the service is set up, and what it has been asked to do wrong.
  class ServiceSetting < Record
    # What can go wrong with the next requests, in words.
    TROUBLES = { "none" => "nothing goes wrong", "busy" => "429, come again in 2 seconds", "error" => "500",
                 "silence" => "no answer", "late" => "takes everybody, but the answer never comes",
                 "refuses" => "refuses every fourth person", "page" => "200 with a web page",
                 "dies" => "dies half-way through" }.freeze
    SECRET = "whsec_"

    validates :trouble, inclusion: { in: TROUBLES.keys }
    validates :trouble_left, numericality: { only_integer: true, in: 0..1_000_000 }
    validates :day_seconds, numericality: { in: 0.001..86_400 }

    # @return [ServiceSetting]
    def self.current
      first || create!(seed: 1871, secret: SECRET + [SecureRandom.bytes(32)].pack("m0"), day_seconds: 20)
    end

    # Uses up one request's trouble.
    #
    # @return [String] of {TROUBLES}
    def next_trouble
      return "none" if trouble_left.zero?

      taken = self.class.where(id: id, trouble_left: 1..).update_all("trouble_left = trouble_left - 1")
      taken == 1 ? trouble : "none"
    end
  end
end
