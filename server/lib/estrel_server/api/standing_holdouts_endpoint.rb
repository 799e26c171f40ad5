# frozen_string_literal: true

module EstrelServer
  module API
    # Holdouts over all marketing.
    class StandingHoldoutsEndpoint < Endpoint
      get("/standing-holdouts", role: "viewer", scope: "read", personal: "none") do
        respond({ today: today, holdouts: StandingHoldout.order(first_day: :desc).map { |row| told(row) } })
      end

      post("/standing-holdouts", role: "administrator", scope: "administer", personal: "none",
                                 log: "global holdout changed") do
        first, last = %w[first_day last_day].map { |name| day(given[name], name) }
        unless first > today
          raise Problem.new(422,
                            "a global holdout must start tomorrow or later")
        end

        row = one_at_a_time("standing holdouts") do
          StandingHoldout.create!(share: given["share"], first_day: first, last_day: last)
        end
        respond(told(row), status: 201)
      end

      # Everybody can be messaged again from tomorrow on.
      post("/standing-holdouts/:id/end", role: "administrator", scope: "administer", personal: "none",
                                         log: "global holdout changed") do
        row = StandingHoldout.find(path_id)
        raise Problem.new(409, "this global holdout has not started; cancel it instead") unless row.begun?(today)
        raise Problem.new(409, "this standing holdout has ended already") if row.last_day <= today

        row.last_day = today
        row.save!(validate: false) # it may have been shorter than one that is planned
        respond(told(row))
      end

      delete("/standing-holdouts/:id", role: "administrator", scope: "administer", personal: "none",
                                       log: "global holdout changed") do
        row = StandingHoldout.find(path_id)
        raise Problem.new(409, "this global holdout has started; end it instead") if row.begun?(today)

        row.destroy!
        respond({ deleted: true })
      end

      private

      def told(row) = { id: row.id, share: row.share, first_day: row.first_day, last_day: row.last_day }
    end
  end
end
