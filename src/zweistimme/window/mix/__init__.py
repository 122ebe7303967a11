"""The Mix page: lanes over the whole programme, meters, and how the mix is made."""
