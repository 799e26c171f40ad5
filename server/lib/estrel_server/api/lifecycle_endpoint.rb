# frozen_string_literal: true

module EstrelServer
  module API
    # The lifecycle of single people.
    class LifecycleEndpoint < Endpoint
      get("/people/:id/lifecycle", role: "viewer", scope: "read", personal: "none") do
        asked = question
        person = People::Person.new(path_id, asked)
        raise Problem.new(409, no_rules) unless rule_set

        respond(People::Lifecycle.new(person.profile.id, asked).to_h)
      end
    end
  end
end
