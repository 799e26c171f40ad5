# frozen_string_literal: true

module EstrelServer
  module API
    # People as a list, and one of them.
    class PeopleEndpoint < Endpoint
      get("/people") do
        list = People.new(generation, as_of: as_of, policy: policy)
        per_page = whole("per_page", 50, 1..People::PAGE_LIMIT)
        result = list.page(state: one_of("state", Estrel::Lifecycle::STATES), definition: definition,
                           search: params["search"].to_s.empty? ? nil : params["search"],
                           order: one_of("order", People::ORDERS) || "last_day",
                           page: whole("page", 1, 1..10_000_000), per_page: per_page)
        respond({ as_of: as_of, per_page: per_page, **result })
      end

      get("/people/:id") { respond(person.to_h) }

      get("/people/:id/events") do
        per_page = whole("per_page", 50, 1..People::PAGE_LIMIT)
        respond({ per_page: per_page, **person.events(type: params["type"], page: whole("page", 1, 1..10_000_000),
                                                      per_page: per_page) })
      end

      private

      def person = Person.new(whole("id", nil, 1..(2**62)), generation, as_of: as_of, policy: policy)

      def definition
        return unless params["audience"]

        parse_definition(Audience.find(whole("audience", nil, 1..(2**62))).current.definition)
      end
    end
  end
end
