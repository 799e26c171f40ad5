# frozen_string_literal: true

module FerrowickPost
  # What becomes of a message, by chance but always the same for the same seed and key: rates and delays by channel and
  # by the state the person was in. The figures are made up.
  class Fate
    # Of messages that arrive.
    DELIVERED = { "email" => 0.97, "sms" => 0.985, "push" => 0.9 }.freeze
    # Of those, by state, opened; an SMS is not seen to be opened.
    OPENED = { "email" => { "new" => 0.46, "active" => 0.4, "dormant" => 0.2, "churned" => 0.09 },
               "push" => { "new" => 0.2, "active" => 0.16, "dormant" => 0.06, "churned" => 0.02 } }.freeze
    # Of those opened (of an SMS: delivered), clicked.
    CLICKED = { "new" => 0.26, "active" => 0.2, "dormant" => 0.14, "churned" => 0.1 }.freeze
    # Of those opened (of an SMS: delivered), unsubscribed.
    LEFT = { "new" => 0.008, "active" => 0.006, "dormant" => 0.025, "churned" => 0.05 }.freeze
    # Seconds: mean until delivered, median until opened, mean from there to a click.
    DELIVERY = 90
    OPENING = { "email" => 3 * 3600, "push" => 20 * 60 }.freeze
    CLICK = 100
    # The spread of the time to opening (standard deviation of its logarithm), and the longest.
    SPREAD = 1.5
    LONGEST = 5 * 86_400

    # @param seed [Integer]
    # @param message [Message]
    def initialize(seed, message)
      @random = Random.new(Digest::SHA256.digest("#{seed}:#{message.message_key}").unpack1("Q"))
      @channel = DELIVERED.key?(message.channel) ? message.channel : "email"
      @state = CLICKED.key?(message.person_state) ? message.person_state : "active"
    end

    # @return [Array<Array(String, Float)>] event type, and seconds after sending
    def happenings
      at = exponential(DELIVERY)
      return [["message_bounced", at]] unless chance?(DELIVERED[@channel])

      seen = @channel == "sms" ? at : opening(at)
      [["message_received", at], *(seen && engaged(seen))]
    end

    private

    def chance?(share) = @random.rand < share

    def exponential(mean) = -Math.log(1 - @random.rand) * mean

    # By Box and Muller (1958).
    def normal = Math.sqrt(-2 * Math.log(1 - @random.rand)) * Math.cos(2 * Math::PI * @random.rand)

    def opening(after)
      return unless chance?(OPENED[@channel].fetch(@state))

      after + [OPENING[@channel] * Math.exp(SPREAD * normal), LONGEST].min
    end

    def engaged(seen)
      list = @channel == "sms" ? [] : [["message_opened", seen]]
      list << ["message_clicked", seen + 1 + exponential(CLICK)] if chance?(CLICKED[@state])
      list << ["message_unsubscribed", seen + 1 + exponential(CLICK)] if chance?(LEFT[@state])
      list
    end
  end
end
