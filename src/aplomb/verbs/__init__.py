"""Cases in JSON, as scripts ask them: read strictly, worked out by the core, given back."""
