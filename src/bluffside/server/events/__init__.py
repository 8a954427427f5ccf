"""The one stream of domain events of each account.

A service records what happened in the transaction of the change. Kinds that somebody subscribed to are
then dispatched once: the subscribers' writes and the mark that it is done commit together.
"""
