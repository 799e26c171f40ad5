# frozen_string_literal: true

module Estrel
  # What follows when somebody says that two identifiers are the same person.
  #
  # The rule of the design, in words: a visitor identifier goes to the customer it is linked to, with all its history,
  # unless it belongs to another customer already (a shared device); then only what is received from then on goes to
  # the new customer. Two customer IDs are never merged automatically. Profiles without a customer ID become one: the
  # visitor part of the contact, otherwise the younger part of the older.
  #
  # It follows that the order of arrival does not matter for any person whose identifiers, followed along all links,
  # lead to at most one customer ID.
  module Identity
    # One side of a link: the identifier, the profile that holds it (nil where nobody does), that profile's customer ID
    # (nil where it has none) and its type ("visitor", "contact", "customer").
    Party = Struct.new(:identifier, :profile, :customer, :type, keyword_init: true) do
      # @return [Boolean]
      def visitor_identifier? = identifier.start_with?("visitor:")

      # @return [String, nil] the customer ID this identifier is, or its holder has
      def issued = identifier.start_with?("customer:") ? identifier : customer
    end

    # What is to be done, `action` being one of
    # - :same      nothing; they are one person already
    # - :made      a new profile gets both identifiers
    # - :attached  the profile `into` gets the identifier `identifier`, which nobody held
    # - :merged    the profile `from` becomes part of the profile `into`
    # - :moved     the visitor identifier `identifier` leaves its profile for `into`; nil means a new profile that gets
    #              the other identifier too
    # - :refused   nothing, for the `reason`
    Decision = Struct.new(:action, :from, :into, :identifier, :reason, keyword_init: true)

    TWO_CUSTOMERS = "the two belong to different customers, and customers are never merged automatically"
    ITSELF = "an identifier cannot be linked to itself"
    TYPES = %w[visitor contact customer].freeze

    module_function

    # @param one [Party]
    # @param other [Party]
    # @return [Decision]
    def decide(one, other)
      return Decision.new(action: :refused, reason: ITSELF) if one.identifier == other.identifier
      return two_customers(one, other) if one.issued && other.issued && one.issued != other.issued
      return Decision.new(action: :made) unless one.profile || other.profile
      return attach(one, other) unless one.profile && other.profile
      return Decision.new(action: :same, into: one.profile) if one.profile == other.profile

      into, from = [one, other].max_by { |party| [TYPES.index(party.type), -party.profile] }
                               .then { |kept| [kept, kept.equal?(one) ? other : one] }
      Decision.new(action: :merged, from: from.profile, into: into.profile)
    end

    def attach(one, other)
      holder, stranger = one.profile ? [one, other] : [other, one]
      Decision.new(action: :attached, into: holder.profile, identifier: stranger.identifier)
    end
    private_class_method :attach

    # A visitor identifier is a device, and devices are shared. Nothing else is passed on between customers.
    def two_customers(one, other)
      device, customer = one.visitor_identifier? ? [one, other] : [other, one]
      if !device.visitor_identifier? || customer.visitor_identifier?
        return Decision.new(action: :refused, reason: TWO_CUSTOMERS)
      end

      Decision.new(action: :moved, from: device.profile, into: customer.profile, identifier: device.identifier)
    end
    private_class_method :two_customers
  end
end
